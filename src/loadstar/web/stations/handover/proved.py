"""What the meter has said of each circuit: which are proved, and of which a reading is out."""

from collections.abc import Mapping

from loadstar.core.prove.results import Proof, proofs

from ...frame.frame import Frame
from ...records import work as records
from ..prove import known


def _proofs(frame: Frame) -> Mapping[str, Proof]:
    readings = records.readings(frame.row)
    return proofs(frame.analysis, known.plan_of(frame, readings), readings)


def unproved(frame: Frame) -> list[str]:
    """The circuits without proof, by name."""
    if not frame.analysis.is_solved:
        return [p.name for p in frame.plan.loads]
    found = _proofs(frame)
    return [p.name for p in frame.plan.loads if not found[p.id].is_proved]


def out(frame: Frame) -> dict[str, int]:
    """How many readings of a circuit are out of their band, by its accessory; only those of which any is."""
    if not frame.analysis.is_solved or not frame.row.summary.proof_read:
        return {}
    return {load: len(proof.out) for load, proof in _proofs(frame).items() if proof.out}
