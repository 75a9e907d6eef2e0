"""Station 8: what the meter should show, what it shows, what a wrong reading means; and practice."""

from ...frame.station import Station
from .acts import ACTS
from .page import prove

STATION = Station(
    key="prove", name="Prove", number=8, page=prove, begun=lambda plan: bool(plan.wires),
    keeps=("view", "n", "run"), acts=ACTS, by_state=False,
    mark=lambda plan: f"{plan.proof_out} out" if plan.proof_out else f"{plan.proof_read} of {plan.proof_all}"
    if plan.proof_all else "")
