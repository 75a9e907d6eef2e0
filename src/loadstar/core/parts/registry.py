"""Every kind of part, once. What else needs a list of kinds derives it from this one."""

from typing import TYPE_CHECKING, Annotated, Union

from pydantic import Field, TypeAdapter

from .base import Part
from .battery import Battery
from .block import Block
from .charging_diode import ChargingDiode
from .coil import Coil
from .combiner import Combiner
from .converter import Converter
from .coupling import Coupling
from .cutoff import Cutoff
from .device import Device
from .drive import Drive
from .flasher import Flasher
from .frame import FramePoint
from .fuse import FusePart
from .generator import Generator
from .junction import Junction
from .kill import KillWire
from .lead import Lead
from .load import LoadPart
from .module import Module
from .own import OwnLoad
from .pack import Pack
from .port import Port
from .relay import Relay
from .second import SecondBattery
from .selector import Selector
from .solenoid import Solenoid
from .starter import Starter
from .switch import Switch
from .tap import Tap
from .way import Way

# In the order in which messages and forms name them.
_KINDS: tuple[type[Part], ...] = (
    Battery, Pack, Drive, Combiner, Generator, Coil, OwnLoad, Starter, KillWire, Tap, Port, Block, Module, Converter,
    Junction, FusePart,
    Way, Relay, Solenoid, Switch, Selector, Flasher, Lead, Coupling, Device,
    SecondBattery, ChargingDiode, Cutoff, FramePoint, LoadPart)
KINDS: dict[str, type[Part]] = {kind.model_fields["kind"].default: kind for kind in _KINDS}

if TYPE_CHECKING:
    AnyPart = Part
else:
    AnyPart = Annotated[Union[tuple(_KINDS)], Field(discriminator="kind")]  # noqa: UP007 - made from a list

PARTS: TypeAdapter[Part] = TypeAdapter(AnyPart)
