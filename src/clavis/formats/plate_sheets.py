"""Templates of a special plate at 1:1: SVG and PDF for paper, DXF in millimetres for the workshop that makes it.

One sheet of marks in mm about the axle, drawn by three pens. Every sheet has a 100 mm ruler to check the printer, the
name of its geometry, and the cautions.
"""

from cmath import phase
from collections.abc import Iterable
from dataclasses import dataclass
from io import StringIO
from math import ceil, cos, degrees, pi, radians, sin, tan
from xml.sax.saxutils import escape, quoteattr

from clavis.core.errors import ClavisError
from clavis.core.fit.plate_release import RULER_MM, SPECIAL_CAUTIONS
from clavis.core.fit.special_plate import CALIPER_HOLES, Plate, PlateHole, thinnest_wall
from clavis.core.parts.mounts import End
from clavis.core.sentences import say


@dataclass(frozen=True)
class Stroke:
    layer: str
    a: complex
    b: complex


@dataclass(frozen=True)
class Arc:
    """Counter-clockwise from ``start`` to ``end``, degrees."""

    layer: str
    centre: complex
    radius_mm: float
    start_deg: float
    end_deg: float


@dataclass(frozen=True)
class Circle:
    layer: str
    centre: complex
    radius_mm: float


@dataclass(frozen=True)
class Text:
    layer: str
    at: complex
    height_mm: float
    words: str
    ends_there: bool = False
    """the words end at ``at`` instead of beginning there"""


Mark = Stroke | Arc | Circle | Text


@dataclass(frozen=True)
class Sheet:
    """Marks in mm about the axle, y up, and the box that holds them."""

    marks: tuple[Mark, ...]
    left: float
    bottom: float
    right: float
    top: float
    title: str

    @property
    def width_mm(self) -> float:
        return self.right - self.left

    @property
    def height_mm(self) -> float:
        return self.top - self.bottom


OUTLINE, HOLES, SUNK, AXLE, PADS, RULER, WORDS = "OUTLINE", "HOLES", "COUNTERBORES", "AXLE", "PADS", "RULER", "TEXT"
WALL = "WALL"
MARGIN_MM, LINE_MM, SMALL_MM = 8.0, 4.2, 2.8
CROSS_MM, AXLE_MM, PAD_ARC_DEG, SEEN_ARC_DEG = 3.0, 6.0, 12.0, 48.0
LEAST_WIDTH_MM = 170.0
LETTER_RATIO = 0.52
"""mean width of a letter over its height"""


def _cross(layer: str, at: complex, half_mm: float) -> list[Mark]:
    return [Stroke(layer, at - half_mm, at + half_mm), Stroke(layer, at - 1j * half_mm, at + 1j * half_mm)]


def _hole(hole: PlateHole, label_mm: float) -> list[Mark]:
    out: list[Mark] = [Circle(HOLES, hole.at, hole.bore_mm / 2), *_cross(HOLES, hole.at, CROSS_MM)]
    if hole.counterbore_mm is not None:
        out.append(Circle(SUNK, hole.at, hole.counterbore_mm / 2))
    made = f"tap {hole.thread}" if hole.tapped else f"{hole.bore_mm:g}"
    caliper = hole.name in CALIPER_HOLES  # its words to the left, those of the mount to the right
    aside = (-1 if caliper else 1) * (hole.widest_mm / 2 + 1.2)
    out.append(Text(WORDS, hole.at + aside + 1j, label_mm, f"{hole.name}, {made}", ends_there=caliper))
    return out


def outline_marks(plate: Plate) -> list[Mark]:
    """The edge: straight sides and arcs."""
    out: list[Mark] = []
    for side in plate.outline:
        start, end = (degrees(phase(z - side.corner)) for z in (side.end, side.arc_end))
        out.append(Stroke(OUTLINE, side.start, side.end))
        out.append(Arc(OUTLINE, side.corner, plate.rim_mm, start, end if end >= start - 1e-9 else end + 360))
    return out


def wrap(words: str, width_mm: float, height_mm: float) -> list[str]:
    """Words in lines that are no longer than a width."""
    most, lines = max(int(width_mm / (height_mm * LETTER_RATIO)), 12), [""]
    for word in words.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > most:
            lines.append(word)
        else:
            lines[-1] = f"{lines[-1]} {word}".strip()
    return lines


def plate_marks(plate: Plate, label_mm: float = SMALL_MM) -> list[Mark]:
    """Plate, holes, axle, and where the pads stand on the rotor's edge."""
    edge = plate.pad_edge
    towards, radius = degrees(phase(edge)), plate.rotor_mm / 2
    marks: list[Mark] = [*outline_marks(plate), *(m for hole in plate.holes for m in _hole(hole, label_mm))]
    marks += [Circle(AXLE, 0j, AXLE_MM), *_cross(AXLE, 0j, AXLE_MM + 4), Text(WORDS, 7 - 5j, label_mm, "axle")]
    marks += [Arc(PADS, 0j, radius, towards - PAD_ARC_DEG, towards + PAD_ARC_DEG), Stroke(PADS, 0j, edge)]
    return marks


def view_of(plate: Plate) -> Sheet:
    """The plate for the screen: without ruler and words, which stand on the page."""
    left, bottom, right, top = plate.box
    edge, title = plate.pad_edge, f"plate {plate.geometry}"
    left, bottom = min(left - 22, -AXLE_MM, edge.real), min(bottom, -AXLE_MM, edge.imag)
    right, top = max(right + 30, AXLE_MM, edge.real), max(top, AXLE_MM, edge.imag)
    radius, towards = plate.rotor_mm / 2, degrees(phase(edge))
    marks = [*plate_marks(plate, label_mm=5.0), Arc(PADS, 0j, radius, towards - SEEN_ARC_DEG, towards + SEEN_ARC_DEG)]
    wall, a, b = thinnest_wall(plate.holes)
    way = (b.at - a.at) / abs(b.at - a.at) if abs(b.at - a.at) > 0 else 1
    ends = a.at + way * a.widest_mm / 2, b.at - way * b.widest_mm / 2
    marks += [Stroke(WALL, *ends), Text(WORDS, (ends[0] + ends[1]) / 2 - 4 - 7j, 5.0, f"{wall:.1f}")]
    return Sheet(tuple(marks), left - MARGIN_MM, bottom - MARGIN_MM, right + MARGIN_MM, top + MARGIN_MM, title)


def sheet_of(plate: Plate, job_title: str) -> Sheet:
    """Everything that stands on a template, from the top: plate, axle and pads; ruler; what it is; cautions."""
    left, bottom, right, top = plate.box
    edge = plate.pad_edge
    left, bottom = min(left - 22, -AXLE_MM, edge.real - 6), min(bottom, -AXLE_MM, edge.imag - 6)
    right, top = max(right + 22, AXLE_MM, edge.real + 6), max(top, AXLE_MM, edge.imag + 6)
    right = max(right, left + LEAST_WIDTH_MM)
    marks = plate_marks(plate)
    y = bottom - 10.0
    marks += ruler_marks(complex(left, y))
    about = (
        f"{job_title or 'Job'}, {'front' if plate.end is End.FRONT else 'rear'} plate {plate.geometry}",
        f"Seen from the rotor side, front to the left. Rotor {plate.rotor_mm:g} mm. Plate {plate.thickness_mm:g} mm "
        f"thick, spacer {max(plate.spacer_mm, 0):.1f} mm. Scale 1:1, millimetres.",
    )
    y -= 9.0
    for size, words in [(LINE_MM, about[0]), (SMALL_MM, about[1]), *((SMALL_MM, c) for c in SPECIAL_CAUTIONS)]:
        for line in wrap(words, right - left, size):
            marks.append(Text(WORDS, complex(left, y), size, line))
            y -= size * 1.45
        y -= 0.8
    return Sheet(tuple(marks), left - MARGIN_MM, y - MARGIN_MM, right + MARGIN_MM, top + MARGIN_MM, about[0])


def ruler_marks(at: complex) -> list[Mark]:
    """A ruler of 100 mm with a tick at every ten."""
    out: list[Mark] = [Stroke(RULER, at, at + RULER_MM)]
    out += [Stroke(RULER, at + mm, at + mm + (4j if mm % 50 == 0 else 2.5j)) for mm in range(0, int(RULER_MM) + 1, 10)]
    out.append(Text(WORDS, at + RULER_MM + 3, SMALL_MM, "100 mm: measure it before anything is laid on the bike"))
    return out


STYLE = {
    OUTLINE: ("#000", 0.35, ""),
    HOLES: ("#000", 0.25, ""),
    SUNK: ("#000", 0.25, "1.5 1"),
    AXLE: ("#000", 0.25, ""),
    PADS: ("#555", 0.25, "3 1.5"),
    RULER: ("#000", 0.3, ""),
    WALL: ("#000", 0.25, "1 0.6"),
}
"""colour, width in mm and dashes of each layer on paper"""


def _svg(mark: Mark) -> str:
    """One mark; y turns down."""
    if isinstance(mark, Text):
        return (
            f'<text x="{mark.at.real:.3f}" y="{-mark.at.imag:.3f}" font-size="{mark.height_mm:g}" '
            f'text-anchor="{"end" if mark.ends_there else "start"}" '
            f'font-family="sans-serif">{escape(mark.words)}</text>'
        )
    colour, width, dashes = STYLE[mark.layer]
    pen = f'class={quoteattr(mark.layer.lower())} fill="none" stroke="{colour}" stroke-width="{width:g}"'
    pen += f' stroke-dasharray="{dashes}"' if dashes else ""
    if isinstance(mark, Stroke):
        (x1, y1), (x2, y2) = ((z.real, -z.imag) for z in (mark.a, mark.b))
        return f'<line x1="{x1:.3f}" y1="{y1:.3f}" x2="{x2:.3f}" y2="{y2:.3f}" {pen}/>'
    if isinstance(mark, Circle):
        return f'<circle cx="{mark.centre.real:.3f}" cy="{-mark.centre.imag:.3f}" r="{mark.radius_mm:.3f}" {pen}/>'
    a, b = (
        mark.centre + mark.radius_mm * complex(cos(radians(d)), sin(radians(d))) for d in (mark.start_deg, mark.end_deg)
    )
    large = int(mark.end_deg - mark.start_deg > 180)
    r = f"{mark.radius_mm:.3f}"
    return f'<path d="M{a.real:.3f} {-a.imag:.3f}A{r} {r} 0 {large} 0 {b.real:.3f} {-b.imag:.3f}" {pen}/>'


def svg_of(sheet: Sheet) -> str:
    """The sheet at 1:1, one user unit to the millimetre; the origin is the axle."""
    w, h = sheet.width_mm, sheet.height_mm
    marks = "\n".join(_svg(mark) for mark in sheet.marks)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.3f}mm" height="{h:.3f}mm" '
        f'viewBox="{sheet.left:.3f} {-sheet.top:.3f} {w:.3f} {h:.3f}">\n'
        f"<title>{escape(sheet.title)}</title>\n{marks}\n</svg>\n"
    )


PAPER_MM = {"A4": (210.0, 297.0), "A3": (297.0, 420.0)}
EDGE_MM = 6.0
"""what printers leave white"""


def paper_for(sheet: Sheet) -> tuple[str, bool] | None:
    """The smallest paper that holds the sheet, and whether it lies on its side; None where A3 does not."""
    for name, (short, long) in PAPER_MM.items():
        for landscape, (w, h) in ((False, (short, long)), (True, (long, short))):
            if sheet.width_mm <= w - 2 * EDGE_MM and sheet.height_mm <= h - 2 * EDGE_MM:
                return name, landscape
    return None


class TooLargeError(ClavisError, ValueError):
    """The sheet does not go on the largest paper."""


def pdf_of(sheet: Sheet) -> bytes:
    """The sheet at true scale on A4, or A3 where it needs it; the reader is told not to scale. Raises TooLargeError."""
    from fpdf import FPDF, ViewerPreferences

    paper = paper_for(sheet)
    if paper is None:
        words = "{width_mm:.0} × {height_mm:.0} does not go on A3: take the SVG or DXF"
        raise TooLargeError(say(words, width_mm=sheet.width_mm, height_mm=sheet.height_mm))
    name, landscape = paper
    pdf = FPDF(orientation="landscape" if landscape else "portrait", unit="mm", format=name)
    pdf.viewer_preferences = ViewerPreferences(print_scaling="None")
    pdf.set_title(_latin(sheet.title))
    pdf.set_auto_page_break(False)
    pdf.set_margin(0)
    pdf.add_page()
    dx, dy = (pdf.w - sheet.width_mm) / 2 - sheet.left, (pdf.h - sheet.height_mm) / 2 + sheet.top

    def place(z: complex) -> tuple[float, float]:
        return z.real + dx, dy - z.imag

    for mark in sheet.marks:
        if isinstance(mark, Text):
            pdf.set_font("Helvetica", size=mark.height_mm * 72 / 25.4)
            x, y = place(mark.at)
            words = _latin(mark.words)
            pdf.text(x - (pdf.get_string_width(words) if mark.ends_there else 0.0), y, words)
            continue
        colour, width, dashes = STYLE[mark.layer]
        pdf.set_line_width(width)
        pdf.set_draw_color(0 if colour == "#000" else 85)
        on, off = (float(x) for x in dashes.split()) if dashes else (0.0, 0.0)
        pdf.set_dash_pattern(dash=on, gap=off)
        if isinstance(mark, Stroke):
            pdf.line(*place(mark.a), *place(mark.b))
        elif isinstance(mark, Circle):
            pdf.circle(*place(mark.centre), mark.radius_mm)
        else:
            pdf.polyline([place(z) for z in arc_points(mark)])
    return bytes(pdf.output())


def _latin(words: str) -> str:
    """What the built-in fonts of a PDF can write."""
    return words.replace("–", "-").replace("’", "'").encode("latin-1", "replace").decode("latin-1")


ARC_STEP_DEG = 2.0


def arc_points(arc: Arc) -> list[complex]:
    """Points along an arc, close enough that its chord is off by less than a hundredth of a millimetre at 60 mm."""
    n = max(ceil((arc.end_deg - arc.start_deg) / ARC_STEP_DEG), 1)
    turns = (radians(arc.start_deg + (arc.end_deg - arc.start_deg) * k / n) for k in range(n + 1))
    return [arc.centre + arc.radius_mm * complex(cos(a), sin(a)) for a in turns]


def _vertices(plate: Plate) -> Iterable[tuple[float, float, float]]:
    """The edge as one closed line: x, y, and the bulge of what follows, tan(turn / 4)."""
    for side in plate.outline:
        turn = phase((side.arc_end - side.corner) / (side.end - side.corner)) % (2 * pi)
        yield side.start.real, side.start.imag, 0.0
        yield side.end.real, side.end.imag, tan(turn / 4)


def dxf_of(plate: Plate, sheet: Sheet) -> str:
    """The plate in millimetres: edge as one closed line with arcs, holes, counterbores, axle, pads' edge, by layer."""
    from ezdxf import units
    from ezdxf.enums import TextEntityAlignment
    from ezdxf.filemanagement import new

    drawing = new("R2010")
    drawing.units = units.MM
    for layer in (OUTLINE, HOLES, SUNK, AXLE, PADS, WORDS):
        drawing.layers.add(layer)
    space = drawing.modelspace()
    space.add_lwpolyline(list(_vertices(plate)), format="xyb", close=True, dxfattribs={"layer": OUTLINE})
    for hole in plate.holes:
        space.add_circle((hole.x_mm, hole.y_mm), hole.bore_mm / 2, dxfattribs={"layer": HOLES})
        if hole.counterbore_mm is not None:
            space.add_circle((hole.x_mm, hole.y_mm), hole.counterbore_mm / 2, dxfattribs={"layer": SUNK})
    space.add_circle((0, 0), AXLE_MM, dxfattribs={"layer": AXLE})
    space.add_line((0, 0), (plate.pad_edge.real, plate.pad_edge.imag), dxfattribs={"layer": PADS})
    for mark in sheet.marks:
        if isinstance(mark, Text):
            words = space.add_text(mark.words, height=mark.height_mm, dxfattribs={"layer": WORDS})
            side = TextEntityAlignment.RIGHT if mark.ends_there else TextEntityAlignment.LEFT
            words.set_placement((mark.at.real, mark.at.imag), align=side)
    out = StringIO()
    drawing.write(out)
    return out.getvalue()
