"""One kilometre at 8 % on one bike with one brake, for the worked values in docstrings."""

from clavis.core.parameters import ModelParameters
from clavis.core.parts.mounts import End
from clavis.core.parts.samples import CALIPER, PAD, ROTOR
from clavis.core.physics.bike import LoadedBike
from clavis.core.physics.descent import Sharing, Style, Weather, heat_steps, plan_ride
from clavis.core.physics.heat import WornBrake, node_row
from clavis.core.physics.road import Section, road_of_sections

BIKE = LoadedBike(90, 1.08, 0.45, 1.08, 0.5, 0.007, 0.345)
"""90 kg on a touring bike"""
ROAD = road_of_sections([Section(length_m=1000, gradient_pct=8, speed_kmh=36)], 500.0)
LOAD = plan_ride(ROAD, BIKE, Weather(20), Style.DRAG, ModelParameters())
STEPS = heat_steps(LOAD, Sharing(front_share=0.55), End.FRONT)
"""of the front wheel"""
ROW = node_row(WornBrake(ROTOR, 1.8, PAD, 2.0, CALIPER, End.FRONT), 0.345, wet=False, p=ModelParameters())
"""its brake for the heat balance"""
