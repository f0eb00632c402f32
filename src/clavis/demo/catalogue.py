"""The demo catalogue. Every maker, model and number is invented; dimensions are realistic and consistent."""

from typing import Any

from clavis.core.parts.models import AnyPart, parse_part
from clavis.core.parts.standard_shelf import small_parts, stock_bolts

# id, maker, model, diameter, thickness, minimum, interface, construction, track, resin only, rivets, mass, price
_ROTORS = """
q-disc-140      Quernmark|Plain 140| 140 1.8 1.5 six_bolt one_piece 14.5 - 0    92  14
q-disc-160      Quernmark|Plain 160| 160 1.8 1.5 six_bolt one_piece 14.5 - 0   114  16
q-disc-180      Quernmark|Plain 180| 180 1.8 1.5 six_bolt one_piece 14.5 - 0   143  18
q-disc-200      Quernmark|Plain 200| 200 1.8 1.5 six_bolt one_piece 14.5 - 0   176  22
q-disc-203      Quernmark|Plain 203| 203 1.8 1.5 six_bolt one_piece 14.5 - 0   182  22
q-city-160      Quernmark|Kerb 160| 160 1.8 1.5 splined  one_piece 13   r 0   108  12
q-city-180      Quernmark|Kerb 180| 180 1.8 1.5 splined  one_piece 13   r 0   136  14
u-line-160      Ulvorn|Line 160| 160 1.8 1.5 splined  floating  14.5 - 1.2 101  34
u-line-180      Ulvorn|Line 180| 180 1.8 1.5 splined  floating  14.5 - 1.2 126  38
u-line-203      Ulvorn|Line 203| 203 1.8 1.5 splined  floating  14.5 - 1.2 158  42
u-mass-180      Ulvorn|Mass 180| 180 2.0 1.75 splined floating  14.5 - 1.4 139  44
u-mass-203      Ulvorn|Mass 203| 203 2.0 1.75 splined floating  14.5 - 1.4 175  49
u-mass-220      Ulvorn|Mass 220| 220 2.0 1.75 splined floating  14.5 - 1.4 207  56
t-heavy-180     Tressick|Heavy 180| 180 2.3 2.0 six_bolt one_piece 14.5 - 0   183  36
t-heavy-200     Tressick|Heavy 200| 200 2.3 2.0 six_bolt one_piece 14.5 - 0   225  41
t-heavy-220     Tressick|Heavy 220| 220 2.3 2.0 six_bolt one_piece 14.5 - 0   274  47
t-light-140     Tressick|Reed 140| 140 1.8 1.6 splined  one_piece 13   - 0    78  46
t-light-160     Tressick|Reed 160| 160 1.8 1.6 splined  one_piece 13   - 0    96  49
t-light-180     Tressick|Reed 180| 180 1.8 1.6 six_bolt one_piece 13   - 0   118  52
p-core-160      Pellory|Core 160| 160 1.9 1.7 splined  sandwich  14.5 - 0   112  58
p-core-180      Pellory|Core 180| 180 1.9 1.7 splined  sandwich  14.5 - 0   134  64
p-vane-160      Pellory|Vane 160| 160 1.9 1.7 splined  vaned     14.5 - 0   122  72
p-vane-180      Pellory|Vane 180| 180 1.9 1.7 splined  vaned     14.5 - 0   148  79
p-vane-203      Pellory|Vane 203| 203 1.9 1.7 splined  vaned     14.5 - 0   181  86
b-load-180      Brindewal|Load 180| 180 2.0 1.8 six_bolt one_piece 16   - 0   164  24
b-load-203      Brindewal|Load 203| 203 2.0 1.8 six_bolt one_piece 16   - 0   207  28
b-load-160      Brindewal|Load 160| 160 2.0 1.8 six_bolt one_piece 16   - 0   132  20
b-load-220      Brindewal|Load 220| 220 2.0 1.8 six_bolt one_piece 16   - 0   246  34
q-disc-220      Quernmark|Plain 220| 220 1.8 1.5 six_bolt one_piece 14.5 - 0   212  28
q-city-203      Quernmark|Kerb 203| 203 1.8 1.5 splined  one_piece 13   r 0   172  17
u-line-140      Ulvorn|Line 140| 140 1.8 1.5 splined  floating  14.5 - 1.2  82  31
u-mass-160      Ulvorn|Mass 160| 160 2.0 1.75 splined floating  14.5 - 1.4 112  40
t-heavy-203     Tressick|Heavy 203| 203 2.3 2.0 six_bolt one_piece 14.5 - 0   231  42
t-heavy-s200    Tressick|Heavy 200 spline| 200 2.3 2.0 splined  one_piece 14.5 - 0   218  44
t-light-s180    Tressick|Reed 180 spline| 180 1.8 1.6 splined  one_piece 13   - 0   114  54
p-core-203      Pellory|Core 203| 203 1.9 1.7 splined  sandwich  14.5 - 0   166  72
h-fell-160      Haldrick|Fell 160| 160 2.0 1.8 six_bolt floating  14.5 - 1.0 118  37
h-fell-180      Haldrick|Fell 180| 180 2.0 1.8 six_bolt floating  14.5 - 1.0 146  41
h-fell-200      Haldrick|Fell 200| 200 2.0 1.8 six_bolt floating  14.5 - 1.0 178  46
h-fell-220      Haldrick|Fell 220| 220 2.0 1.8 six_bolt floating  14.5 - 1.0 214  52
"""

# id, maker, model, mount, fluid, bores, shape, slot, tab, rivet room, moving, phenolic, arm, pull, fitting, mass, price
_CALIPERS = """
u-two-22     Ulvorn|Pair 22| post mineral 22    K2 2.0 8   2.0 2 - -   -     M8    118  54
u-four-1516  Ulvorn|Quad 15/16| post mineral 15,16 K4 2.2 8   2.0 2 - -   -     M8    142  88
u-four-1718  Ulvorn|Quad 17/18| post mineral 17,18 K4 2.4 8   1.8 2 - -   -     M8    151 104
q-cargo-four Quernmark|Carter Four| post mineral 18,18 K4 2.5 9   1.6 2 p -   -     M8    178  96
p-two-21     Pellory|Two 21| post dot     21    P2 2.0 8   2.0 2 - -   -     M8B   112  76
p-four-1618  Pellory|Four 16/18| post dot     16,18 P4 2.5 8.5 1.8 2 - -   -     M8B   156 128
t-flat-21    Tressick|Level 21| flat mineral 21    F2 1.95 6  1.6 2 - -   -     M8     98  92
t-flat-four  Tressick|Level Quad| flat mineral 14,14 F4 2.1 6   1.6 2 - -   -     M8    128 134
b-cable-one  Brindewal|Pull One| post none    -     C1 2.0 8   2.0 1 - 5.2 short -     158  32
b-cable-two  Brindewal|Pull Two| post none    -     C1 2.0 8   2.0 2 - 5.6 short -     172  58
b-cable-flat Brindewal|Pull Flat| flat none    -     F2 1.95 6  1.6 2 - 5.4 short -     162  66
b-cable-long Brindewal|Pull Long| post none    -     C1 2.0 8   2.0 1 - 9.4 long  -     164  30
u-four-p1617 Ulvorn|Quad 16/17 Resin Piston| post mineral 16,17 K4 2.4 8   1.8 2 p -   -     M8    148 112
q-kerb-two   Quernmark|Kerb Two| post mineral 21    K2 1.9 8   2.0 2 - -   -     M8    124  39
h-two-20     Haldrick|Fell Two| post mineral 20    H2 2.1 8   2.0 2 - -   -     M8H   116  71
h-four-1617  Haldrick|Fell Four| post mineral 16,17 H4 2.4 8.5 1.8 2 - -   -     M8H   149 118
p-flat-21    Pellory|Flat Two| flat dot     21    P5 1.95 6  1.6 2 - -   -     M8B    94 118
p-flat-1416  Pellory|Flat Four| flat dot     14,16 P6 2.1 6   1.6 2 - -   -     M8B   126 152
t-flat-19    Tressick|Level 19| flat mineral 19    F2 1.9 6   1.6 2 - -   -     M8     91 104
b-haul-quad  Brindewal|Haul Quad| own  mineral 20,22 B9 3.0 12  3.0 2 - -   -     M8    312 214
b-cable-quad Brindewal|Pull Cargo| post none    -     C1 2.4 9   1.8 2 - 6.1 short -     188  74
"""

# id, maker, model, ratio, fluid, bore, pull, fitting, mass, price, bar
_LEVERS = """
u-blade-a    Ulvorn|Blade A| 5.4 mineral 10   -     M8  92  42
u-blade-b    Ulvorn|Blade B| 6.2 mineral 10   -     M8 104  68
u-blade-c    Ulvorn|Blade C| 6.6 mineral 9.5  -     M8 108  84
q-grip       Quernmark|Grip| 5.8 mineral 10.5 -     M8 118  38
t-hood       Tressick|Hood| 5.0 mineral 9.5  -     M8 238 156 drop
p-arm        Pellory|Arm| 5.8 dot     10   -     M8B 98 74
p-arm-swing  Pellory|Arm Swing| 6.4 dot     10   -     M8B 110 98
b-pull-short Brindewal|Hand Short| 4.6 none    -    short -  86  18
b-hood-short Brindewal|Hood Short| 4.2 none    -    short - 186  64 drop
b-pull-long  Brindewal|Hand Long| 2.6 none    -    long  -  82  16
h-stile      Haldrick|Stile| 5.9 mineral 9.8  -     M8H  94  58
h-stile-far  Haldrick|Stile Far| 6.5 mineral 9.5  -     M8H 102  79
p-hood       Pellory|Hood| 5.1 dot     9.7  -     M8B 232 172 drop
q-carter     Quernmark|Carter| 6.4 mineral 11   -     M8  126  52
"""

# id, maker, model, shape, compound, material, height, area, finned, mass, price
_PADS = """
u-k2-resin    Ulvorn|K2 Resin| K2 resin         2.0 14.0 330 - 16 12
u-k2-semi     Ulvorn|K2 Semi| K2 semi_metallic 2.0 14.0 330 - 18 15
u-k2-sinter   Ulvorn|K2 Sinter| K2 sintered      2.0 14.0 330 - 22 18
q-k2-ceram    Quernmark|K2 Ceram| K2 ceramic       2.0 14.0 330 - 17 21
u-k4-resin    Ulvorn|K4 Resin| K4 resin         2.0 14.0 520 - 24 17
u-k4-semi     Ulvorn|K4 Semi| K4 semi_metallic 2.0 14.0 520 - 27 20
u-k4-sinter   Ulvorn|K4 Sinter| K4 sintered      2.0 14.0 520 - 33 24
u-k4-fin      Ulvorn|K4 Sinter Fin| K4 sintered      2.0 14.0 520 f 44 36
q-k4-load     Quernmark|K4 Load| K4 semi_metallic 2.2 14.0 540 - 29 26
p-p2-resin    Pellory|P2 Resin| P2 resin         2.0 14.0 320 - 15 16
p-p2-sinter   Pellory|P2 Sinter| P2 sintered      2.0 14.0 320 - 21 20
p-p4-resin    Pellory|P4 Resin| P4 resin         2.0 14.5 510 - 24 22
p-p4-semi     Pellory|P4 Semi| P4 semi_metallic 2.0 14.5 510 - 27 25
p-p4-sinter   Pellory|P4 Sinter| P4 sintered      2.0 14.5 510 - 33 28
t-f2-resin    Tressick|F2 Resin| F2 resin         1.8 12.5 300 - 13 16
t-f2-semi     Tressick|F2 Semi| F2 semi_metallic 1.8 12.5 300 - 15 19
t-f2-ceram    Tressick|F2 Ceram| F2 ceramic       1.8 12.5 300 - 14 26
t-f2-fin      Tressick|F2 Fin| F2 resin         1.8 12.5 300 f 19 29
t-f4-resin    Tressick|F4 Resin| F4 resin         1.8 12.5 470 - 20 24
t-f4-sinter   Tressick|F4 Sinter| F4 sintered      1.8 12.5 470 - 27 30
b-c1-resin    Brindewal|C1 Resin| C1 resin         2.2 14.0 320 - 17  9
b-c1-semi     Brindewal|C1 Semi| C1 semi_metallic 2.2 14.0 320 - 19 12
b-c1-sinter   Brindewal|C1 Sinter| C1 sintered      2.2 14.0 320 - 23 15
u-k4-ceram   Ulvorn|K4 Ceram| K4 ceramic       2.0 14.0 520 - 25 25
p-p2-semi    Pellory|P2 Semi| P2 semi_metallic 2.0 14.0 320 - 17 18
p-p2-ceram   Pellory|P2 Ceram| P2 ceramic       2.0 14.0 320 - 16 23
p-p4-ceram   Pellory|P4 Ceram| P4 ceramic       2.0 14.5 510 - 25 30
t-f2-sinter  Tressick|F2 Sinter| F2 sintered      1.8 12.5 300 - 19 22
t-f4-semi    Tressick|F4 Semi| F4 semi_metallic 1.8 12.5 470 - 22 27
t-f4-ceram   Tressick|F4 Ceram| F4 ceramic       1.8 12.5 470 - 21 32
b-c1-ceram   Brindewal|C1 Ceram| C1 ceramic       2.2 14.0 320 - 18 17
h-h2-resin   Haldrick|H2 Resin| H2 resin         2.1 14.0 325 - 16 14
h-h2-semi    Haldrick|H2 Semi| H2 semi_metallic 2.1 14.0 325 - 18 17
h-h2-sinter  Haldrick|H2 Sinter| H2 sintered      2.1 14.0 325 - 22 20
h-h2-ceram   Haldrick|H2 Ceram| H2 ceramic       2.1 14.0 325 - 17 22
h-h4-resin   Haldrick|H4 Resin| H4 resin         2.1 14.0 515 - 25 21
h-h4-semi    Haldrick|H4 Semi| H4 semi_metallic 2.1 14.0 515 - 27 24
h-h4-sinter  Haldrick|H4 Sinter| H4 sintered      2.1 14.0 515 - 31 27
h-h4-ceram   Haldrick|H4 Ceram| H4 ceramic       2.1 14.0 515 - 26 29
p-p5-resin   Pellory|P5 Resin| P5 resin         1.8 12.5 305 - 13 19
p-p5-semi    Pellory|P5 Semi| P5 semi_metallic 1.8 12.5 305 - 15 22
p-p5-sinter  Pellory|P5 Sinter| P5 sintered      1.8 12.5 305 - 19 25
p-p5-ceram   Pellory|P5 Ceram| P5 ceramic       1.8 12.5 305 - 14 27
p-p6-resin   Pellory|P6 Resin| P6 resin         1.8 12.5 465 - 20 27
p-p6-semi    Pellory|P6 Semi| P6 semi_metallic 1.8 12.5 465 - 22 30
p-p6-sinter  Pellory|P6 Sinter| P6 sintered      1.8 12.5 465 - 26 33
p-p6-ceram   Pellory|P6 Ceram| P6 ceramic       1.8 12.5 465 - 21 35
b-b9-semi     Brindewal|B9 Semi| B9 semi_metallic 3.0 14.0 760 - 58 39
b-b9-sinter   Brindewal|B9 Sinter| B9 sintered      3.0 14.0 760 - 66 44
m-k2-thrift  Merrowby|K2 Thrift| K2 resin         2.0 14.0 330 - 17 7
m-k4-thrift  Merrowby|K4 Thrift| K4 resin         2.0 14.0 520 - 25 12
m-p2-thrift  Merrowby|P2 Thrift| P2 resin         2.0 14.0 320 - 16 10
m-p4-thrift  Merrowby|P4 Thrift| P4 resin         2.0 14.5 510 - 25 17
m-f2-thrift  Merrowby|F2 Thrift| F2 resin         1.8 12.5 300 - 14 11
m-f4-thrift  Merrowby|F4 Thrift| F4 resin         1.8 12.5 470 - 21 19
m-c1-thrift  Merrowby|C1 Thrift| C1 resin         2.2 14.0 320 - 18 5
m-h4-thrift  Merrowby|H4 Thrift| H4 resin         2.1 14.0 515 - 26 16
m-k4-haul    Merrowby|K4 Haul| K4 sintered      2.2 14.0 520 f 38 33
m-p4-haul    Merrowby|P4 Haul| P4 sintered      2.2 14.5 510 f 38 38
m-h4-haul    Merrowby|H4 Haul| H4 sintered      2.3 14.0 515 f 39 37
m-c1-haul    Merrowby|C1 Haul| C1 sintered      2.4 14.0 320 f 31 25
m-f4-haul    Merrowby|F4 Haul| F4 sintered      2.0 12.5 470 f 34 40
"""

# id, model, kind, from, fits (end:size+…), style, upper, lower, flange, thread depth, mass, price
_ADAPTERS = """
a-pp-140-160  P140–160   post_to_post 140 front:160+rear:160 through    9.6 10.4 0  0  18  9
a-pp-160-180  P160–180   post_to_post 160 front:180+rear:180 through    9.6 10.4 0  0  18  9
a-pp-180-200  P180–200   post_to_post 180 front:200+rear:200 through    9.6 10.4 0  0  19 10
a-pp-180-203  P180–203   post_to_post 180 front:203+rear:203 through   11.1 11.9 0  0  21 10
a-pp-200-220  P200–220   post_to_post 200 front:220+rear:220 through    9.6 10.4 0  0  20 11
a-pp-203-223  P203–223   post_to_post 203 front:223+rear:223 through    9.6 10.4 0  0  20 11
a-pp-160-200  P160–200   post_to_post 160 front:200+rear:200 four_hole 20   20   8 12  38 14
a-pp-160-203  P160–203   post_to_post 160 front:203+rear:203 four_hole 21.5 21.5 8 12  41 14
a-pp-180-220  P180–220   post_to_post 180 front:220+rear:220 four_hole 20   20   8 12  39 15
a-pp-140-180  P140–180   post_to_post 140 rear:180           four_hole 20   20   8 12  37 14
a-is-160-140  S160/140   is_to_post   -   front:160+rear:140 side       0    0   0 12  28 11
a-is-180-160  S180/160   is_to_post   -   front:180+rear:160 side      10   10   0 12  32 11
a-is-203-180  S203/183   is_to_post   -   front:203+rear:183 side      21.5 21.5 0 12  40 13
a-is-r180     S–/180     is_to_post   -   rear:180           side      20   20   0 12  39 13
a-is-r203     S–/203     is_to_post   -   rear:203           side      31.5 31.5 0 12  48 15
a-ff-flip     F140/160   flat_front_plate 140 front:140+front:160 plate 4    4   3  0  24 12
a-ff-160-180  F160/180   flat_front_plate 160 front:160+front:180 plate 4    4   3  0  28 16
a-ff-carry    FC140–160  flat_front_plate 140 front:160           plate 9    9   7  9  52 28
a-fr-140-160  R140–160   flat_rear_spacer 140 rear:160           plate 10   10   0  0  16 10
a-fr-160-180  R160–180   flat_rear_spacer 160 rear:180           plate 10   10   0  0  17 11
a-fp-front    F–P160     flat_to_post 140 front:160          four_hole 18   18   7 12  46 19
a-fp-rear     R–P160     flat_to_post 140 rear:160           four_hole 18   18   7 12  44 19
a-pf-160      P–F160     post_to_flat 160 front:160+rear:160 four_hole  6    6   6 10  36 22
"""

_HUBS = """
h-six-on-spline Quernmark|Six on Spline| six_bolt_on_splined 34 18
h-ring-in       Quernmark|Ring inner| lockring_internal   12  6
h-ring-out      Quernmark|Ring outer| lockring_external   16  8
"""


# id, maker, model, end, interface, bead seat, mass, price
_WHEELS = """
w-plain-f622 Quernmark|Roller front 622| front six_bolt 622 1120 96
w-plain-r622 Quernmark|Roller rear 622| rear six_bolt 622 1340 118
w-line-f622  Ulvorn|Line front 622| front splined 622 890 168
w-line-r622  Ulvorn|Line rear 622| rear splined 622 1060 196
w-plain-f355 Quernmark|Roller front 355| front six_bolt 355 760 84
w-plain-r355 Quernmark|Roller rear 355| rear six_bolt 355 980 104
"""


# id, maker, model, mount, native, largest, axle, thread, depth, tab, assisted, mass, price
_FORKS = """
k-span-180    Ashgill|Span 180| post_mount 180 203 mm15 light_alloy 16 -   yes 2050 420
k-span-160    Ashgill|Span 160| post_mount 160 203 mm15 light_alloy 16 -   no  1890 360
k-span-20     Ashgill|Span Long 20| post_mount 203 220 mm20 light_alloy 18 - yes 2780 690
k-moor        Ashgill|Moor Steel| is_mount - 180 quick_release steel - 5.0 -   1150 140
k-lane        Tressick|Lane| flat_front 140 160 mm12 light_alloy 10 -   -   420  310
k-haul        Quernmark|Haul| post_mount 180 -   mm15 steel 18 -   yes 1980 190
k-town        Quernmark|Town| is_mount - 160 quick_release steel - 5.0 no 1020 75
"""
_FRAMES = """
g-span        Ashgill|Span frame| post_mount 160 180 mm12 light_alloy 15 -   no  2600 890
g-span-e      Ashgill|Span assisted frame| post_mount 180 203 mm12 light_alloy 15 -   yes 3900 1650
g-lane        Tressick|Lane frame| flat_rear 140 160 mm12 light_alloy - 15.0 -   1050 1240
g-lane-160    Tressick|Lane 160 frame| flat_rear 160 180 mm12 light_alloy - 17.0 no 1120 1290
g-moor        Ashgill|Moor Steel frame| is_mount - 160 quick_release steel - 5.0 -   2050 380
g-haul        Quernmark|Haul long frame| post_mount 180 180 mm12 steel 16 -   yes 7400 980
"""
# id, maker, model, grade, boils fresh, ml, mass, price
_FLUIDS = """
u-oil         Ulvorn|Line Oil| mineral 190 100 105 12
t-oil         Tressick|Level Oil| mineral 205 60 70 14
h-oil         Haldrick|Fell Oil| mineral 215 120 125 15
q-oil         Quernmark|Carter Oil| mineral - 250 245 9
p-dot51       Pellory|Line 5.1| dot51 270 100 112 11
m-dot4        Merrowby|Fluid 4| dot4 240 250 270 7
"""
# id, maker, model, fluid, at the lever, at the caliper, length, mass, price
_HOSES = """
u-hose        Ulvorn|Hose| mineral M8  M8  1800 62 19
u-hose-long   Ulvorn|Hose Long| mineral M8  M8  3200 108 34
p-hose        Pellory|Hose| dot     M8B M8B 2000 70 24
h-hose        Haldrick|Hose| mineral M8H M8H 2000 68 22
h-hose-m8     Haldrick|Hose M8| mineral M8  M8H 2000 68 26
h-hose-long   Haldrick|Hose Long| mineral M8H M8H 3200 110 36
"""


def _table(text: str) -> list[tuple[str, str, str, list[str]]]:
    """Rows of a table: id, maker, model, and the columns after them."""
    rows = []
    for line in text.strip().splitlines():
        left, model, columns = line.split("|")
        part_id, maker = left.split()
        rows.append((part_id, maker, model, columns.split()))
    return rows


def _or_none(text: str) -> str | None:
    return None if text == "-" else text


def _rivet_radius_mm(c: list[str]) -> float | None:
    """Rivets stand just inside the track."""
    return float(c[0]) / 2 - float(c[5]) - RIVETS_INSIDE_MM if float(c[7]) else None


RIVETS_INSIDE_MM = 2.5


def _rotors() -> list[dict[str, Any]]:
    keys = ("diameter_mm", "thickness_mm", "minimum_mm", "interface", "construction", "track_mm")
    out = []
    for part_id, maker, model, c in _table(_ROTORS):
        row = dict(zip(keys, c, strict=False))
        out.append(
            {"kind": "rotor", "id": part_id, "maker": maker, "model": model, **row, "resin_only": c[6] == "r",
             "rivet_out_mm": c[7], "rivet_radius_mm": _rivet_radius_mm(c), "mass_g": c[8], "price": c[9]}
        )  # fmt: skip
    return out


# Calipers whose tabs need cup-and-cone pairs, with the stack of one pair, mm.
_PAIRS = {"p-two-21": 3.6, "b-cable-one": 3.4, "b-cable-long": 3.4}


def _inboard_mm(bores: str) -> float:
    """How far a caliper of these pistons stands toward the spokes; cable calipers stand out most."""
    return 17.5 if bores == "-" else 15.5 if "," in bores else 14.0


def _calipers() -> list[dict[str, Any]]:
    return [
        {"kind": "caliper", "id": part_id, "maker": maker, "model": model, "mount": c[0], "fluid": c[1],
         "bores_mm": [] if c[2] == "-" else c[2].split(","), "pad_shape": c[3], "slot_mm": c[4], "tab_mm": c[5],
         "rivet_room_mm": c[6], "body_in_mm": 15.0 if c[0] == "flat" else 18.0, "moving_pads": int(c[7]), "phenolic": c[8] == "p", "arm_ratio": _or_none(c[9]),
         "pull": _or_none(c[10]), "fitting": c[11], "mass_g": c[12], "price": c[13], "inboard_mm": _inboard_mm(c[2]),
         **({"washers": "cup_cone", "washer_pair_mm": _PAIRS[part_id]} if part_id in _PAIRS else {})}
        for part_id, maker, model, c in _table(_CALIPERS)
    ]  # fmt: skip


def _levers() -> list[dict[str, Any]]:
    return [
        {"kind": "lever", "id": part_id, "maker": maker, "model": model, "ratio": c[0], "fluid": c[1],
         "bore_mm": _or_none(c[2]), "pull": _or_none(c[3]), "fitting": c[4], "mass_g": c[5], "price": c[6],
         "bar": c[7] if len(c) > 7 else "flat"}
        for part_id, maker, model, c in _table(_LEVERS)
    ]  # fmt: skip


def _pads() -> list[dict[str, Any]]:
    return [
        {"kind": "pad", "id": part_id, "maker": maker, "model": model, "shape": c[0], "compound": c[1],
         "material_mm": c[2], "height_mm": c[3], "area_mm2": c[4], "finned": c[5] == "f", "mass_g": c[6], "price": c[7]}
        for part_id, maker, model, c in _table(_PADS)
    ]  # fmt: skip


# Holes for the bolts to the mount: pitch, diameter, counterbore and its depth; how far four-hole parts carry the
# caliper round the rotor, so that its bolts pass those to the mount; carriers for a flip plate.
_HOLES: dict[str, dict[str, Any]] = {
    "a-ff-flip": {"pitch_mm": 70.0, "hole_mm": 5.6, "counterbore_mm": 9.4, "head_room_mm": 3.2},
    "a-ff-160-180": {"pitch_mm": 70.0, "hole_mm": 5.5, "counterbore_mm": 9.0, "head_room_mm": 3.2},
    "a-ff-carry": {"pitch_mm": 70.0, "hole_mm": 5.4, "counterbore_mm": 9.2, "head_room_mm": 5.5, "carrier": True},
    "a-fp-front": {"pitch_mm": 70.0, "hole_mm": 5.3, "counterbore_mm": 8.9, "head_room_mm": 6.0, "around_mm": 12},
    "a-fp-rear": {"around_mm": 12},
    "a-pf-160": {"around_mm": 6},
    **{
        f"a-pp-{step}": {"around_mm": 20, "counterbore_mm": 11.0, "head_room_mm": 7.0}
        for step in ("160-200", "160-203", "180-220", "140-180")
    },
}


# What stands on a packet where it is not the model: sellers' offsets are unreliable.
_PACKETS = {"a-pp-160-203": "+40"}


def _adapters() -> list[dict[str, Any]]:
    out = []
    for line in _ADAPTERS.strip().splitlines():
        part_id, model, kind, origin, fits, style, upper, lower, flange, depth, mass, price = line.split()
        places = [pair.split(":") for pair in fits.split("+")]
        out.append(
            {"kind": "adapter", "id": part_id, "maker": "Quernmark", "model": model, "adapter_kind": kind,
             "from_mm": _or_none(origin), "fits": [{"end": e, "rotor_mm": d} for e, d in places], "style": style,
             "upper_mm": upper, "lower_mm": lower, "flange_mm": flange, "thread_depth_mm": depth, "mass_g": mass, **_HOLES.get(part_id, {}),
             "price": price, "label": _PACKETS.get(part_id, model)}
        )  # fmt: skip
    return out


def _carrying(kind: str, text: str) -> list[dict[str, Any]]:
    keys = (
        "mount",
        "native_mm",
        "max_rotor_mm",
        "axle",
        "thread_material",
        "hole_depth_mm",
        "tab_mm",
        "assisted",
        "mass_g",
        "price",
    )
    return [
        {"kind": kind, "id": part_id, "maker": maker, "model": model, **dict(zip(keys, map(_or_none, c), strict=True))}
        for part_id, maker, model, c in _table(text)
    ]  # fmt: skip


def _lines() -> list[dict[str, Any]]:
    fluids = [
        {"kind": "fluid", "id": part_id, "maker": maker, "model": model, "grade": c[0], "dry_c": _or_none(c[1]),
         "volume_ml": c[2], "mass_g": c[3], "price": c[4]}
        for part_id, maker, model, c in _table(_FLUIDS)
    ]  # fmt: skip
    hoses = [
        {"kind": "hose", "id": part_id, "maker": maker, "model": model, "fluid": c[0], "lever_fitting": c[1],
         "caliper_fitting": c[2], "length_mm": c[3], "mass_g": c[4], "price": c[5]}
        for part_id, maker, model, c in _table(_HOSES)
    ]  # fmt: skip
    return fluids + hoses


def demo_parts() -> list[AnyPart]:
    """Every part of the demo world, checked as any other part is."""
    hubs = [
        {"kind": "hub", "id": part_id, "maker": maker, "model": model, "role": c[0], "mass_g": c[1], "price": c[2]}
        for part_id, maker, model, c in _table(_HUBS)
    ]
    wheels = [
        {"kind": "wheel", "id": part_id, "maker": maker, "model": model, "end": c[0], "interface": c[1], "rim_mm": int(c[2]),
         "mass_g": c[3], "price": c[4]}
        for part_id, maker, model, c in _table(_WHEELS)
    ]  # fmt: skip
    carrying = [*_carrying("fork", _FORKS), *_carrying("frame", _FRAMES)]
    rows = [
        *_rotors(),
        *_calipers(),
        *_levers(),
        *_pads(),
        *_adapters(),
        *({"maker": "Quernmark", **row} for row in (*stock_bolts(""), *small_parts("s-"))),
        *hubs,
        *wheels,
        *carrying,
        *_lines(),
    ]
    return [parse_part(row) for row in rows]
