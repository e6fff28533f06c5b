"""Traces: copies of a figure's curves, kept to compare with and to swap back and forth."""

from __future__ import annotations

from dataclasses import replace

from bovrin.errors import BadMotion, UnknownName
from bovrin.shot import Shot, Trace


def traces_of(shot: Shot, figure: str) -> list[Trace]:
    """The traces of a figure, the oldest first."""
    return [trace for trace in shot.take.traces if trace.figure == figure]


def trace_named(shot: Shot, figure: str, name: str) -> Trace:
    """The trace of that name."""
    for trace in traces_of(shot, figure):
        if trace.name == name:
            return trace
    known = ", ".join(trace.name for trace in traces_of(shot, figure)) or "none yet"
    raise UnknownName(f"'{figure}' has no trace '{name}'.", advice=f"Traces: {known}.")


def _with_traces(shot: Shot, traces: list[Trace]) -> Shot:
    return replace(shot, take=replace(shot.take, traces=tuple(traces)))


def keep_trace(shot: Shot, figure: str, name: str = "") -> Shot:
    """Keep the curves as they are; without a name it gets a number."""
    taken = {trace.name for trace in traces_of(shot, figure)}
    number = next(n for n in range(1, len(taken) + 2) if f"trace {n}" not in taken)
    words = name.strip() or f"trace {number}"
    if words in taken:
        raise BadMotion(f"there is a trace '{words}' already.", advice="Give it another name.")
    return _with_traces(shot, [*shot.take.traces, Trace(words, figure, shot.curves(figure))])


def swap_trace(shot: Shot, figure: str, name: str) -> Shot:
    """The trace becomes the motion, and the motion the trace; twice is as before."""
    trace = trace_named(shot, figure, name)
    now = shot.curves(figure)
    swapped = [replace(t, curves=now) if t is trace else t for t in shot.take.traces]
    return _with_traces(shot.with_curves(figure, trace.curves), swapped)


def rename_trace(shot: Shot, figure: str, name: str, words: str) -> Shot:
    """Call a trace by another name."""
    trace, words = trace_named(shot, figure, name), words.strip()
    if not words or (words != name and words in {t.name for t in traces_of(shot, figure)}):
        raise BadMotion(f"a trace cannot be called '{words}'.", advice="Give it a name that no other trace has.")
    return _with_traces(shot, [replace(t, name=words) if t is trace else t for t in shot.take.traces])


def remove_trace(shot: Shot, figure: str, name: str) -> Shot:
    """Forget a trace."""
    trace = trace_named(shot, figure, name)
    return _with_traces(shot, [t for t in shot.take.traces if t is not trace])
