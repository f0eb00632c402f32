"""Templates measured back: from the SVG's own figures, the PDF's own strokes and the DXF's own groups."""

import re
import xml.etree.ElementTree as ET
from io import BytesIO, StringIO
from itertools import combinations

import pytest

from clavis.core.fit.special_plate import Plate, plate_of
from clavis.core.job.special_mount import SpecialMount
from clavis.core.parts.mounts import End
from clavis.formats.plate_sheets import TooLargeError, dxf_of, paper_for, pdf_of, sheet_of, svg_of, wrap
from tests.core.fit.test_special_plate import MEASURED, STOCK

WITHIN_MM = 0.05


def made(**more) -> Plate:
    found = plate_of(SpecialMount(**(MEASURED | {"pad_angle_deg": 24.0} | more)), End.FRONT, STOCK)
    assert found is not None
    return found


PLATES = {
    "two holes": made(),
    "three holes, sunk": made(mount_bolts="into_boss", boss_material="steel", boss_depth_mm=12.0, counterbore_mm=5.0,
                              third_x_mm=118.0, third_y_mm=55.0),
    "corrected": made(out_mm=-0.8, turn_deg=3.0),
}  # fmt: skip


@pytest.fixture(params=PLATES)
def plate(request) -> Plate:
    return PLATES[request.param]


def distances(places: list[complex]) -> list[float]:
    return sorted(abs(a - b) for a, b in combinations(places, 2))


def wanted(plate: Plate) -> list[float]:
    """Between all holes and the axle."""
    return distances([0j, *(h.at for h in plate.holes)])


def assert_measured(found: list[complex], plate: Plate) -> None:
    assert len(found) == len(plate.holes) + 1
    for a, b in zip(distances(found), wanted(plate), strict=True):
        assert abs(a - b) < WITHIN_MM


def test_the_svg_is_one_to_one(plate) -> None:
    root = ET.fromstring(svg_of(sheet_of(plate, "Own job")))
    ns = "{http://www.w3.org/2000/svg}"
    _left, _top, width, height = (float(x) for x in root.attrib["viewBox"].split())
    assert root.attrib["width"] == f"{width:.3f}mm"
    assert root.attrib["height"] == f"{height:.3f}mm"
    circles = [c.attrib for c in root.iter(f"{ns}circle") if c.attrib["class"] in ("holes", "axle")]
    assert_measured([complex(float(c["cx"]), -float(c["cy"])) for c in circles], plate)
    ruler = next(x.attrib for x in root.iter(f"{ns}line") if x.attrib["class"] == "ruler")
    assert float(ruler["x2"]) - float(ruler["x1"]) == pytest.approx(100)
    text = " ".join("".join(t.itertext()) for t in root.iter(f"{ns}text"))
    assert plate.geometry in text
    assert "qualified engineer" in text


class Strokes:
    """Paths of a PDF page in mm from its own content stream: current matrix of the page is in points, y up."""

    def __init__(self, data: bytes) -> None:
        from pypdf import PdfReader

        page = PdfReader(BytesIO(data)).pages[0]
        box = page.mediabox
        self.width_mm, self.height_mm = float(box.width) * 25.4 / 72, float(box.height) * 25.4 / 72
        words = page.get_contents().get_data().decode("latin-1")
        self.text = words
        self.lines: list[tuple[complex, complex]] = []
        self.curves: list[list[complex]] = []
        self._read(re.sub(r"\((?:\\.|[^\\)])*\)", " ", words).split())

    def _read(self, tokens: list[str]) -> None:
        stack: list[float] = []
        at, path = 0j, []
        for token in tokens:
            try:
                stack.append(float(token))
                continue
            except ValueError:
                pass
            points = [complex(*stack[k : k + 2]) * 25.4 / 72 for k in range(0, len(stack) - 1, 2)]
            if token == "m":
                at, path = points[-1], []
            elif token == "l":
                self.lines.append((at, points[-1]))
                at = points[-1]
            elif token == "c":
                path += [at, points[-1]]
                at = points[-1]
                if len(path) == 8:
                    self.curves.append(path)
                    path = []
            stack = []

    @property
    def circles(self) -> list[tuple[complex, float]]:
        """Centre and radius of every closed figure of four curves."""
        out = []
        for path in self.curves:
            xs, ys = [p.real for p in path], [p.imag for p in path]
            out.append((complex((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2), (max(xs) - min(xs)) / 2))
        return out


def test_the_pdf_measured_back(plate) -> None:
    data = pdf_of(sheet_of(plate, "Own job – with a dash"))
    page = Strokes(data)
    assert (round(page.width_mm), round(page.height_mm)) in {(210, 297), (297, 210), (297, 420), (420, 297)}
    assert b"/PrintScaling /None" in data
    bores = {round(h.bore_mm / 2, 2) for h in plate.holes} | {6.0}
    found = [at for at, r in page.circles if any(abs(r - want) < 0.02 for want in bores)]
    assert_measured(found, plate)
    ruler = [abs(b - a) for a, b in page.lines if abs(abs(b - a) - 100) < 1 and abs((b - a).imag) < 1e-6]
    assert ruler
    assert ruler[0] == pytest.approx(100, abs=WITHIN_MM)


def groups(text: str) -> list[tuple[str, dict[str, str]]]:
    """Entities of a DXF from its group codes, read without any library."""
    rows = [line.strip() for line in text.splitlines()]
    pairs = list(zip(rows[::2], rows[1::2], strict=False))
    start = next(k for k, pair in enumerate(pairs) if pair == ("2", "ENTITIES"))
    out: list[tuple[str, dict[str, str]]] = []
    for code, value in pairs[start + 1 :]:
        if code == "0":
            if value == "ENDSEC":
                break
            out.append((value, {}))
        elif out:
            out[-1][1].setdefault(code, value)
    return out


def test_the_dxf_measured_back(plate) -> None:
    text = dxf_of(plate, sheet_of(plate, "Own job"))
    rows = groups(text)
    circles = [g for kind, g in rows if kind == "CIRCLE" and g["8"] in ("HOLES", "AXLE")]
    assert_measured([complex(float(g["10"]), float(g["20"])) for g in circles], plate)
    bores = sorted(2 * float(g["40"]) for kind, g in rows if kind == "CIRCLE" and g["8"] == "HOLES")
    assert bores == pytest.approx(sorted(h.bore_mm for h in plate.holes))
    assert re.search(r"\$INSUNITS\s+70\s+4\s", text)


def test_the_edge_of_the_dxf_keeps_its_distance_from_the_holes(plate) -> None:
    """Line and arcs, opened by a library that did not make the figures: no point nearer to a hole than the rim."""
    import ezdxf
    from ezdxf import path

    drawing = ezdxf.read(StringIO(dxf_of(plate, sheet_of(plate, "Own job"))))
    (edge,) = drawing.modelspace().query("LWPOLYLINE")
    assert edge.closed
    points = [complex(p.x, p.y) for p in path.make_path(edge).flattening(0.005)]
    nearest = min(abs(p - h.at) for p in points for h in plate.holes)
    assert nearest == pytest.approx(plate.rim_mm, abs=WITHIN_MM)
    xs, ys = [p.real for p in points], [p.imag for p in points]
    assert (min(xs), min(ys), max(xs), max(ys)) == pytest.approx(plate.box, abs=WITHIN_MM)


def test_half_a_millimetre_at_one_hole_is_half_a_millimetre_on_every_sheet() -> None:
    one, other = made(), made(upper_x_mm=92.5)
    moved = [
        [complex(float(g["10"]), float(g["20"])) for kind, g in groups(dxf_of(p, sheet_of(p, ""))) if kind == "CIRCLE"]
        for p in (one, other)
    ]
    steps = [abs(a - b) for a, b in zip(*moved, strict=True)]
    assert [round(s, 3) for s in steps] == [0.5, 0, 0, 0, 0]


def test_paper_grows_with_the_plate_and_ends_at_a3() -> None:
    small, large = sheet_of(made(), ""), sheet_of(made(upper_y_mm=250.0), "")
    assert paper_for(small)[0] == "A4"
    assert paper_for(large)[0] == "A3"
    huge = sheet_of(made(upper_y_mm=290.0, lower_y_mm=-290.0), "")
    assert paper_for(huge) is None
    with pytest.raises(TooLargeError, match="does not go on A3"):
        pdf_of(huge)


def test_a_title_cannot_break_out_of_the_drawing() -> None:
    sheet = sheet_of(made(), '<script>alert("x")</script> & more')
    assert "<script" not in svg_of(sheet)
    assert b"%PDF" in pdf_of(sheet)[:8]


def test_words_are_broken_at_blanks_and_none_is_lost() -> None:
    words = "one two three four five six seven eight nine ten " * 4
    lines = wrap(words, 60, 2.8)
    assert " ".join(lines).split() == words.split()
    assert max(map(len, lines)) <= 60 / (2.8 * 0.52)
