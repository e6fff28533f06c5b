from dataclasses import replace

import pytest
from tests.formats import gltf_maker as make

from bovrin.errors import BadFigure
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.making.roles import LimbRole, guess_from, roles_of, with_limb
from bovrin.shot import Joint


def joints(rows: dict) -> tuple[Joint, ...]:  # type: ignore[type-arg]
    names = list(rows)
    found = [Joint("whole", -1, (0.0, 0.0, 0.0))]
    for name, (parent, place) in rows.items():
        base = rows[parent][1] if parent else (0.0, 0.0, 0.0)
        offset = tuple(a - b for a, b in zip(place, base, strict=True))
        found.append(Joint(name, names.index(parent) + 1 if parent else 0, offset))  # type: ignore[arg-type]
    return tuple(found)


@pytest.mark.parametrize("rows", [make.TWO_LEGS, make.FOUR_LEGS, make.TENTACLE])
def test_a_guess_follows_from_its_own_roles(rows: dict) -> None:  # type: ignore[type-arg]
    own = joints(rows)
    guess = guess_build(own)
    again = guess_from(own, roles_of(guess))
    assert (again.build, again.hips, again.spine, again.neck, again.head) == (
        guess.build, guess.hips, guess.spine, guess.neck, guess.head,
    )  # fmt: skip
    assert [(x.kind, x.side, x.upper, x.middle, x.end) for x in again.limbs] == [
        (x.kind, x.side, x.upper, x.middle, x.end) for x in guess.limbs
    ]
    assert sorted(again.tails) == sorted(guess.tails)


def test_a_tentacle_can_be_made_an_arm_and_taken_away_again() -> None:
    own = joints(make.TENTACLE)
    roles = replace(roles_of(guess_build(own)), head=-1, chest=-1, tails=())
    armed = with_limb(own, roles, 4, "arm")
    guess = guess_from(own, armed)
    assert [(x.kind, x.upper, x.middle, x.end) for x in guess.limbs] == [("arm", 4, 5, 6)]
    assert guess_from(own, roles).limbs == ()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda r: replace(r, hips=12), "hips"),
        (lambda r: replace(r, limbs=(LimbRole("leg", 3, 2, 1),)), "does not hang on"),
        (lambda r: replace(r, limbs=(r.limbs[0], r.limbs[0])), "two limbs"),
        (lambda r: replace(r, limbs=(LimbRole("arm", 6, 8, 9),)), "does not hang|joints between"),
    ],
)
def test_what_cannot_be_is_said(change, words: str) -> None:  # type: ignore[no-untyped-def]
    own = joints(make.TWO_LEGS)
    with pytest.raises(BadFigure, match=words):
        guess_from(own, change(roles_of(guess_build(own))))


def test_sides_make_pairs() -> None:
    """Two limbs that nobody would pair are a pair when somebody says so; a limb in the middle has no other."""
    own = joints(make.TENTACLE)
    roles = replace(roles_of(guess_build(own)), head=-1, chest=-1, tails=(), hips=1)
    both = replace(roles, limbs=(LimbRole("arm", 2, 3, 4, "left"), LimbRole("arm", 5, 6, 7, "right")))
    guess = guess_from(own, both)
    assert {(x.kind, x.side) for x in guess.limbs} == {("arm", "left"), ("arm", "right")}
    assert {(2, 5), (3, 6), (4, 7)} <= set(guess.pairs)
    alone = guess_from(own, replace(both, limbs=(LimbRole("arm", 2, 3, 4),)))
    assert alone.pairs == () and alone.limbs[0].side == ""
    rig = make_rig(own, guess)
    assert ("left hand goal", "right hand goal") in rig.pairs


def test_a_limb_needs_joints_below() -> None:
    own = joints(make.TWO_LEGS)
    head = [j.name for j in own].index("Kugel")
    with pytest.raises(BadFigure, match="too few joints"):
        with_limb(own, roles_of(guess_build(own)), head, "arm")
