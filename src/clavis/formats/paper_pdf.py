"""Papers as PDF, A4 or letter, in the typeface of the pages. The same blocks make the printed page."""

from pathlib import Path

from fpdf import FPDF
from fpdf.enums import XPos, YPos
from fpdf.fonts import FontFace

from clavis.core.sentences import Words
from clavis.core.units import System
from clavis.core.wording.papers import Block, Caution, Heading, Paper, Paragraph, Rows, Signature, Step
from clavis.core.wording.sentences import render
from clavis.core.workshop.labour import PaperSize

FONTS = Path(__file__).parent / "fonts"
FAMILY, BESIDE = "sofia", ("latin-ext", "greek")
MARGIN_MM, TEXT_PT, SMALL_PT = 16, 10, 8.5
INK, SOFT, OCHRE, PALE = (20, 36, 31), (61, 82, 74), (201, 133, 0), (251, 239, 210)
BOX_MM = 4.2
STYLES = (("", "regular"), ("B", "bold"))


class _Page(FPDF):
    """A page with its number and what paper it is at its foot."""

    foot = ""

    def footer(self) -> None:
        self.set_y(-12)
        self.set_font(FAMILY, size=SMALL_PT)
        self.set_text_color(*SOFT)
        self.cell(0, 5, f"{self.foot}   {self.page_no()} / {{nb}}", align="R")


def _font_file(part: str, style: str) -> str:
    return str(FONTS / f"sofia-sans-{part}-{style}.ttf")


class _Writer:
    """Writes blocks, one under the other."""

    def __init__(self, size: PaperSize, system: System, foot: str) -> None:
        self.pdf, self.system = _Page(format=size.value.lower()), system
        pdf = self.pdf
        pdf.foot = foot
        pdf.set_margins(MARGIN_MM, MARGIN_MM, MARGIN_MM)
        pdf.set_auto_page_break(True, margin=MARGIN_MM + 4)
        for style, name in STYLES:
            pdf.add_font(FAMILY, style, _font_file("latin", name))
            for part in BESIDE:
                pdf.add_font(f"{FAMILY}-{part}", style, _font_file(part, name))
        pdf.set_fallback_fonts([f"{FAMILY}-{part}" for part in BESIDE], exact_match=False)
        pdf.add_page()

    def told(self, words: Words) -> str:
        return render(words, self.system)

    def line(self, words: Words, size: float = TEXT_PT, style: str = "", indent: float = 0.0) -> None:
        pdf = self.pdf
        pdf.set_font(FAMILY, style, size)
        pdf.set_x(pdf.l_margin + indent)
        pdf.multi_cell(0, size * 0.5, self.told(words), align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)

    def keep_together(self, height_mm: float) -> None:
        """A new page where less is left of this one."""
        if self.pdf.will_page_break(height_mm):
            self.pdf.add_page()

    def heading(self, words: Words) -> None:
        self.keep_together(18)
        self.pdf.ln(2.5)
        self.line(words, 12, "B")
        self.pdf.ln(0.5)

    def caution(self, words: Words, indent: float = 0.0) -> None:
        pdf = self.pdf
        pdf.set_font(FAMILY, "", TEXT_PT - 0.5)
        pdf.set_fill_color(*PALE)
        self.keep_together(8)
        pdf.set_x(pdf.l_margin + indent)
        top = pdf.get_y()
        pdf.multi_cell(0, 4.8, f" {self.told(words)}", fill=True, align="L", new_x=XPos.LMARGIN, new_y=YPos.NEXT)
        pdf.set_fill_color(*OCHRE)
        pdf.rect(pdf.l_margin + indent - 1.2, top, 1.2, pdf.get_y() - top, style="F")
        pdf.ln(0.8)

    def rows(self, block: Rows) -> None:
        pdf = self.pdf
        pdf.set_font(FAMILY, "", TEXT_PT - 0.5)
        align = tuple("RIGHT" if k in block.numbers else "LEFT" for k in range(len(block.head)))
        strong = FontFace(emphasis="BOLD")
        pdf.set_fill_color(255, 255, 255)
        with pdf.table(
            col_widths=block.shares, text_align=align, borders_layout="HORIZONTAL_LINES", line_height=5,
            headings_style=FontFace(emphasis="BOLD", color=SOFT), padding=(0.6, 1),
        ) as table:  # fmt: skip
            head = table.row()
            for words in block.head:
                head.cell(self.told(words))
            for k, told in enumerate(block.rows):
                row = table.row()
                last = block.last_strong and k == len(block.rows) - 1
                for words in told:
                    row.cell(self.told(words), style=strong if last else None)
        pdf.ln(1)

    def step(self, block: Step) -> None:
        pdf, indent = self.pdf, 15.0
        self.keep_together(14)
        top = pdf.get_y()
        pdf.set_draw_color(*INK)
        pdf.rect(pdf.l_margin, top + 0.3, BOX_MM, BOX_MM)
        if block.done:
            pdf.line(pdf.l_margin + 0.8, top + 2.4, pdf.l_margin + 1.8, top + 3.7)
            pdf.line(pdf.l_margin + 1.8, top + 3.7, pdf.l_margin + BOX_MM - 0.6, top + 1.0)
        pdf.set_font(FAMILY, "B", TEXT_PT)
        pdf.set_xy(pdf.l_margin + BOX_MM + 1.5, top)
        pdf.cell(8, 5, str(block.number), align="R")
        pdf.set_y(top)
        self.line(block.words, indent=indent)
        for under in (block.under, block.done):
            if under:
                pdf.set_text_color(*SOFT)
                self.line(under, SMALL_PT, indent=indent)
                pdf.set_text_color(*INK)
        if block.caution:
            self.caution(block.caution, indent)
        pdf.ln(1.2)

    def signature(self, words: Words) -> None:
        pdf = self.pdf
        self.keep_together(24)
        pdf.ln(14)
        pdf.line(pdf.l_margin, pdf.get_y(), pdf.l_margin + 90, pdf.get_y())
        self.line(words, SMALL_PT)

    def block(self, block: Block) -> None:
        match block:
            case Heading():
                self.heading(block.words)
            case Paragraph():
                self.line(block.words, style="B" if block.strong else "")
                self.pdf.ln(0.8)
            case Caution():
                self.caution(block.words)
            case Rows():
                self.rows(block)
            case Step():
                self.step(block)
            case Signature():
                self.signature(block.words)


def paper_pdf(paper: Paper, size: PaperSize, system: System, workshop: str) -> bytes:
    """A paper as PDF, in the reader's units; ``workshop`` is who it is from."""
    title = render(paper.title, system)
    writer = _Writer(size, system, f"{workshop} · {title}" if workshop else title)
    pdf = writer.pdf
    pdf.set_title(title)
    pdf.set_creator("Clavis")
    pdf.set_text_color(*INK)
    if workshop:
        writer.line(workshop, SMALL_PT, "B")
    writer.line(paper.title, 18, "B")
    writer.line(paper.subtitle)
    pdf.ln(2)
    for block in paper.blocks:
        writer.block(block)
    return bytes(pdf.output())
