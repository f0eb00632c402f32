"""Friction compounds: one row each, everything that is known of it. A new compound is a new row.

Figures are judged starting values (docs/model.md, section 3): friction ± 12 %, wear ± 50 %; the maker's own figure
replaces them.
"""

from dataclasses import dataclass

from clavis.core.records import figure, key_of

_FRICTION = "judged by us from trade practice, ± 12 %"
_BULK = "textbook range of the material, judged"
_WEAR = "judged by us from trade practice, ± 50 %"
_TRADE = "trade practice, judged"


@dataclass(frozen=True, kw_only=True)
class CompoundRow:
    """One compound. Its friction is ``mu_cold`` below T1, rises to ``mu_work`` at T2, is level to the onset of fade and
    falls from there to a floor; ``physics.friction`` has the curve."""

    words: str
    mu_cold: float = figure("", _FRICTION, "friction, cold")
    t1_c: float = figure("c", _FRICTION, "cold up to")
    t2_c: float = figure("c", _FRICTION, "works from")
    mu_work: float = figure("", _FRICTION, "friction, at work")
    fade_c: float = figure("c", _FRICTION, "fades from")
    slope_per_100k: float = figure("", _FRICTION, "loses per 100 K")
    floor: float = figure("", _FRICTION, "never below")
    wet_ratio: float = figure("", _FRICTION, "wet, of dry")
    k_w_mk: float = figure("w_mk", _BULK, "conductivity")
    rho_kg_m3: float = figure("kg_m3", _BULK, "density")
    c_j_kgk: float = figure("j_kgk", _BULK, "heat capacity")
    pad_wear_mm3_mj: float = figure("mm3_mj", _WEAR, "wear of the pads")
    rotor_wear_ratio: float = figure("", _WEAR, "wear of the rotor, of resin's")
    bed_energy_kj: float = figure("kj", _TRADE, "energy to bed in")
    bed_temperature_c: float = figure("c", _TRADE, "reached in bedding-in")
    bed_from_kmh: float = figure("kmh", _TRADE, "bedding-in stops from")
    noise_score: int = figure("", _TRADE, "noise in the dry, 1 quiet to 4 loud")
    wet_score: int = figure("", _TRADE, "manners in the wet, 1 good to 4 poor")
    cold_score: int = figure("", _TRADE, "first pull, 1 bites at once to 4 weak until warm")
    on_any_rotor: bool = False
    """may run on a rotor that is marked for resin pads only"""
    loud_when_wet: bool = False
    """howls, or bites late, in the wet"""


COMPOUNDS: dict[str, CompoundRow] = {
    "resin": CompoundRow(
        words="resin", mu_cold=0.44, t1_c=0, t2_c=20, mu_work=0.45, fade_c=200, slope_per_100k=0.12, floor=0.20,
        wet_ratio=0.80, k_w_mk=0.9, rho_kg_m3=2300, c_j_kgk=1000, pad_wear_mm3_mj=300, rotor_wear_ratio=1.0,
        bed_energy_kj=20, bed_temperature_c=120, bed_from_kmh=20, noise_score=1, wet_score=2, cold_score=1,
        on_any_rotor=True,
    ),
    "semi_metallic": CompoundRow(
        words="semi-metallic", mu_cold=0.38, t1_c=20, t2_c=90, mu_work=0.45, fade_c=320, slope_per_100k=0.08,
        floor=0.25, wet_ratio=0.75, k_w_mk=3.0, rho_kg_m3=3200, c_j_kgk=800, pad_wear_mm3_mj=180, rotor_wear_ratio=1.6,
        bed_energy_kj=35, bed_temperature_c=180, bed_from_kmh=25, noise_score=3, wet_score=2, cold_score=2,
        loud_when_wet=True,
    ),
    "sintered": CompoundRow(
        words="sintered", mu_cold=0.32, t1_c=40, t2_c=140, mu_work=0.47, fade_c=450, slope_per_100k=0.05, floor=0.30,
        wet_ratio=0.60, k_w_mk=18.0, rho_kg_m3=5500, c_j_kgk=420, pad_wear_mm3_mj=100, rotor_wear_ratio=2.5,
        bed_energy_kj=60, bed_temperature_c=300, bed_from_kmh=30, noise_score=4, wet_score=4, cold_score=4,
        loud_when_wet=True,
    ),
    "ceramic": CompoundRow(
        words="ceramic", mu_cold=0.42, t1_c=20, t2_c=60, mu_work=0.44, fade_c=350, slope_per_100k=0.07, floor=0.25,
        wet_ratio=0.70, k_w_mk=1.2, rho_kg_m3=2600, c_j_kgk=900, pad_wear_mm3_mj=120, rotor_wear_ratio=1.0,
        bed_energy_kj=25, bed_temperature_c=150, bed_from_kmh=22, noise_score=1, wet_score=3, cold_score=2,
    ),
}  # fmt: skip
CompoundKey = key_of(COMPOUNDS)
