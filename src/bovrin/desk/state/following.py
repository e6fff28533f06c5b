"""Followers on what is chosen: made, told, copied and let go of."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from bovrin.desk.state.document.session import Session
from bovrin.desk.state.hanging import controls_to_hang
from bovrin.shot import Follower, Rig, Shot
from bovrin.shot.follower import PRESETS, settings_of, without_followers


def chain_chosen(session: Session) -> tuple[str, ...]:
    """What would follow: the chosen controls, or what hangs below the one that is chosen."""
    from bovrin.craft.following.chains import chain_below  # noqa: PLC0415 - kept out of the window's start

    figure = session.figure
    if figure is None or not (session.controls or len(without_followers(figure.rig).controls) == 1):
        return ()
    names = [name for name in controls_to_hang(session) if name not in dict(figure.followers)]
    return chain_below(figure.rig, names)


def follow_chosen(session: Session, kind: str, settings: Mapping[str, float] | None = None, called: str = "") -> bool:
    """What is chosen moves by a rule from now on."""
    from bovrin.craft.following.follow import follow  # noqa: PLC0415 - kept out of the window's start

    names, figure = chain_chosen(session), session.figure_name
    if not names:
        session.voice.tell("Choose what shall follow: a tail, an ear, a chest.")
        return False
    made = f"{names[0]} {kind if called in names[0].split() else called or kind}"
    rig = session.shot.figure(figure).rig
    own = made if made not in {c.name for c in rig.controls} | {p.name for p in rig.parts} else None
    done = session.do(
        f"{made[:1].upper()}{made[1:]}", lambda shot: follow(shot, figure, names, kind, own, settings or {})
    )
    if done:
        row = f"{len(names)} links" if len(names) > 1 else names[0]
        session.voice.tell(f"A {kind} on {row}: what it is told stands in Followers.")
    return done


def as_preset(session: Session, name: str) -> bool:
    """What is chosen follows as a preset says."""
    preset = PRESETS[name]
    return follow_chosen(session, preset.kind, preset.settings, name)


def is_keyed(shot: Shot, figure: str, name: str, setting: str) -> bool:
    """Whether what a follower is told changes over time."""
    rig = shot.figure(figure).rig
    return len(shot.curves(figure)[rig.channel(f"{name}/{setting}")]) > 1


def told_shot(session: Session, name: str, setting: str, value: float) -> Shot:
    """The shot in which a follower is told something else: keyed here where it has keys over time, else throughout."""
    from bovrin.craft.following.follow import told  # noqa: PLC0415 - kept out of the window's start

    shot, figure = session.shot, session.figure_name
    frame = session.frame if is_keyed(shot, figure, name, setting) else None
    return told(shot, figure, name, {setting: value}, frame)


def tell(session: Session, name: str, setting: str, value: float) -> bool:
    """Tell a follower something else, as one step."""
    return session.do(f"{name}: {setting}", lambda _shot: told_shot(session, name, setting, value))


def key_here(session: Session, name: str) -> bool:
    """Key all that a follower is told on the current frame: from then on it is told anew on frames."""
    from bovrin.craft.following.follow import follower, settings_at, told  # noqa: PLC0415 - kept out of the start

    figure, frame = session.figure_name, session.frame

    def change(shot: Shot) -> Shot:
        now = settings_at(shot, figure, name, frame)
        kind = follower(shot, figure, name).kind
        bounds = {one.name: (one.low, one.high) for one in settings_of(kind)}
        return told(shot, figure, name, {n: min(max(v, bounds[n][0]), bounds[n][1]) for n, v in now.items()}, frame)

    return session.do(f"Key what {name} is told", change)


def turn_on(session: Session, one: Follower, *, on: bool) -> bool:
    """Let a follower count, or not."""
    from bovrin.craft.following.follow import changed  # noqa: PLC0415 - kept out of the window's start

    name, words = session.figure_name, f"{one.name} {'on' if on else 'off'}"
    return session.do(words, lambda shot: changed(shot, name, one.name, replace(one, on=on)))


def let_go(session: Session, one: Follower) -> bool:
    """Take a follower away."""
    from bovrin.craft.following.follow import let_go as gone  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    return session.do(f"{one.name} no longer follows", lambda shot: gone(shot, name, one.name))


def sooner(session: Session, one: Follower) -> bool:
    """Add a follower one place earlier among the figure's."""
    from bovrin.craft.following.follow import ordered  # noqa: PLC0415 - kept out of the window's start

    name, place = session.figure_name, session.shot.followers(session.figure_name).index(one)
    return session.do(f"{one.name} earlier", lambda shot: ordered(shot, name, one.name, place - 1))


def copy_target(rig: Rig, one: Follower, chosen: tuple[str, ...]) -> tuple[str, ...] | None:
    """Where a follower would be copied to: other chosen controls, or else the other side's; None where there is nothing."""
    from bovrin.craft.following.chains import across  # noqa: PLC0415 - kept out of the window's start

    if chosen and not set(chosen) & {*one.controls, one.name}:
        return chosen
    return across(rig, one.controls)


def copy(session: Session, one: Follower) -> bool:
    """The same once more, on what is chosen, or on the other side."""
    from bovrin.craft.following.copies import copied  # noqa: PLC0415 - kept out of the window's start

    figure = session.figure
    assert figure is not None
    onto = copy_target(figure.rig, one, chain_chosen(session) if session.controls else ())
    if onto is None:
        session.voice.tell(f"{one.name} has no other side. Choose the parts that shall follow the same way, then copy.")
        return False
    return session.do(f"{one.name} on {onto[0]} too", lambda shot: copied(shot, figure.name, one.name, onto))


def stays_out(session: Session, one: Follower, *, of: str, off: bool) -> bool:
    """Let a spring stay out of a joint's bone or the ground, or no longer."""
    from bovrin.craft.following.follow import changed  # noqa: PLC0415 - kept out of the window's start

    name = session.figure_name
    left = tuple(n for n in one.clear_of if n != of)
    new = replace(one, clear_of=(*left, of) if off else left)
    return session.do(f"{one.name} stays out", lambda shot: changed(shot, name, one.name, new))
