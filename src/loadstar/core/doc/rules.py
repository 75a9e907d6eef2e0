"""The workshop's ways, as a plan takes them."""

from typing import Annotated, Literal

from pydantic import Field

from .types import ONE_LINE, Doc, InsulationCode, LeastAreaMm2, Note


class HouseRules(Doc):
    """The workshop's ways as taken for this plan; `reasons` says why this plan departs from them, by field."""

    fuse_share_frac: Annotated[float, Field(ge=0.4, le=0.95)] = 0.75
    thermal_margin_k: Annotated[float, Field(ge=0, le=50)] = 15
    drop_lamp_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.05
    drop_heating_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_electronics_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_motor_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    drop_other_frac: Annotated[float, Field(ge=0.005, le=0.2)] = 0.08
    sizes: Literal["metric", "AWG"] = "metric"
    least_area_mm2: LeastAreaMm2 = 0.5
    insulation: InsulationCode = "B"
    tinned: bool = False
    ambient_open_c: Annotated[float, Field(ge=-20, le=120)] = 40
    ambient_tank_c: Annotated[float, Field(ge=-20, le=120)] = 60
    ambient_engine_c: Annotated[float, Field(ge=-20, le=120)] = 80
    end_allowance_m: Annotated[float, Field(ge=0, le=1)] = 0.08
    local_length_m: Annotated[float, Field(ge=0.02, le=2)] = 0.10
    contact_mohm: Annotated[float, Field(ge=0.01, le=50)] = 1.0
    crank_limit_v: Annotated[float, Field(ge=3, le=12)] = 9.6
    starter_drop_v: Annotated[float, Field(ge=0.1, le=3)] = 0.5
    parked_days: Annotated[float, Field(ge=1, le=365)] = 28
    unfused_limit_m: Annotated[float, Field(ge=0.02, le=1)] = 0.3
    stud_terminals: Annotated[int, Field(ge=1, le=8)] = 4
    chafe_arc_v: Annotated[float, Field(ge=0, le=20)] = 0
    returns: Literal["own wire", "frame"] = "own wire"
    joints: Literal["crimp only", "crimp then solder", "solder splice"] = "crimp only"
    terminals: Literal["bare with a boot", "pre-insulated"] = "bare with a boot"
    leads: Literal["splice", "bullet 3.9", "sealed small", "sealed 2.8"] = "splice"
    colours: Literal["coded", "red and black"] = "coded"
    covering: Literal["braided sleeve", "loom tape", "PVC tape"] = "braided sleeve"
    tie_spacing_mm: Annotated[float, Field(ge=30, le=600)] = 150
    lay_mm: Annotated[float, Field(ge=0, le=1000)] = 0
    hole_fill_frac: Annotated[float, Field(ge=0.3, le=1)] = 0.70
    splices: Literal["where it stands still", "anywhere"] = "where it stands still"
    splice_off_mm: Annotated[float, Field(ge=0, le=300)] = 40
    work_pace_frac: Annotated[float, Field(ge=0.3, le=4)] = 1.0
    feeds: Literal["block", "relay", "module", "plug"] = "block"
    always_loads: Literal["allowed", "with a reason"] = "with a reason"
    reasons: dict[Annotated[str, Field(max_length=40), ONE_LINE], Note] = {}

    def covered_with(self, covering: str) -> str:
        """What a run is covered with: its own covering, or the house rule's; "" for bare."""
        return self.covering if covering == "" else "" if covering == "bare" else covering

    def crank_limit_at(self, nominal_v: float) -> float:
        """The lowest voltage while cranking, which is given for 12 V, for a battery of so many volts."""
        return self.crank_limit_v * nominal_v / 12
