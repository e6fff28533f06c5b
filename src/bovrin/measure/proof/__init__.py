"""Proof-reading: a shot is read as a strict supervisor would read it, and each fault becomes a note."""

from bovrin.measure.proof.notes import KINDS, Fault, Note, is_left, limit_of
from bovrin.measure.proof.proof import LOOKS, Reader, proof
from bovrin.measure.proof.reading import Reading

__all__ = ["KINDS", "LOOKS", "Fault", "Note", "Reader", "Reading", "is_left", "limit_of", "proof"]
