"""Four plain parts, of no maker, for the worked values in docstrings."""

from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Caliper, Construction, HubInterface, Lever, Pad, Rotor
from clavis.core.parts.mounts import CaliperMount

ROTOR = Rotor(
    id="sample-180", maker="Sample", model="180", price=20, mass_g=143, diameter_mm=180, thickness_mm=1.8,
    minimum_mm=1.5, interface=HubInterface.SIX_BOLT, construction=Construction.ONE_PIECE,
)  # fmt: skip
"""180 mm, 1.8 mm thick, a track 14.5 mm high"""
CALIPER = Caliper(
    id="sample-two", maker="Sample", model="two pistons", price=60, mass_g=120, mount=CaliperMount.POST,
    fluid=Fluid.MINERAL, bores_mm=(22.0,), pad_shape="K2", slot_mm=2.0, tab_mm=8,
)  # fmt: skip
"""two pistons of 22 mm"""
LEVER = Lever(
    id="sample-lever", maker="Sample", model="lever", price=40, mass_g=90, ratio=6.0, fluid=Fluid.MINERAL, bore_mm=10,
)  # fmt: skip
"""ratio 6 on a master piston of 10 mm"""
PAD = Pad(
    id="sample-pad", maker="Sample", model="pad", price=12, mass_g=16, shape="K2", compound="resin", material_mm=2.0,
    height_mm=14.0,
)  # fmt: skip
"""resin, 14 mm high, 2 mm thick"""
