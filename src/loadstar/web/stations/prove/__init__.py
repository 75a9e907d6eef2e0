"""Station 8: what the meter should show, what it shows, what a wrong reading means; and practice."""

from ..station import Station
from .acts import ACTS
from .page import prove

STATION = Station(
    key="prove", name="Prove", number=8, page=prove, begun=lambda plan: bool(plan.wires),
    keeps=("view", "n", "run"), acts=ACTS, by_state=False,
    mark=lambda row: f"{row.proof_out} out" if row.proof_out else f"{row.proof_read} of {row.proof_all}"
    if row.proof_all else "")
