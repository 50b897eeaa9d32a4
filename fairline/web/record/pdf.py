"""The record as a PDF, laid out with fpdf2."""

from collections.abc import Callable, Sequence
from io import BytesIO
from pathlib import Path

from fpdf import FPDF
from fpdf.enums import TableBordersLayout

from fairline.core.hand_over.records import SIGNED_HIGH, SIGNED_WIDE, strokes_of
from fairline.web.frame.moments import moment
from fairline.web.record.figures import Figure
from fairline.web.record.outline import PRACTISED, Record, Section, Shown
from fairline.web.record.vector import for_paper

FONTS = Path(__file__).parent.parent / "static" / "fonts"
PICTURE_MM = (86.0, 64.0)


class RecordPdf(FPDF):
    """Pages with the job's name and the page number at the foot, where it is ``footed``."""

    def __init__(
        self,
        name: str,
        what: str = "Record",
        footed: bool = True,
        size: str | tuple[float, float] = "A4",
    ) -> None:
        super().__init__(format=size, enforce_compliance="PDF/A-3B")
        self.name, self.footed = name, footed
        self.add_font("body", "", FONTS / "DejaVuSansCondensed.ttf")
        self.add_font("body", "B", FONTS / "DejaVuSansCondensed-Bold.ttf")
        self.set_margins(16, 14, 16)
        self.set_auto_page_break(True, 16)
        self.set_title(f"{what}: {name}")
        self.set_creator("Fair Line")

    def footer(self) -> None:
        if not self.footed:
            return
        self.set_y(-12)
        self.set_font("body", "", 8)
        self.cell(0, 5, f"{self.name} · page {self.page_no()} of {{nb}}", align="R")

    def line_of(self, words: str) -> None:
        self.multi_cell(0, 5, words, new_x="LMARGIN", new_y="NEXT")


def write_record(record: Record, content_of: Callable[[str], bytes | None]) -> bytes:
    """The record of one job; ``content_of`` gives a picture's JPEG by its name."""
    pdf = RecordPdf(record.name)
    pdf.add_page()
    pdf.set_font("body", "B", 22)
    pdf.multi_cell(0, 9, record.name, new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("body", "", 10)
    for line in [*([PRACTISED] if record.practice else []), *record.heading]:
        pdf.line_of(line)
    for figure in record.house:
        _figure(pdf, figure)
    for section in record.before[:1]:
        _section(pdf, section)
    for figure in record.evidence:
        _figure(pdf, figure)
    for section in record.before[1:]:
        _section(pdf, section)
    _pictures(pdf, record.pictures, content_of)
    for section in record.after:
        _section(pdf, section)
    pdf.ln(3)
    for words in record.closing:
        pdf.line_of(words)
    _signatures(pdf, record.signatures)
    return bytes(pdf.output())


def _figure(pdf: RecordPdf, figure: Figure) -> None:
    """A drawing as vectors, below its title, its words below it."""
    svg = for_paper(figure.drawn)
    _, _, wide, high = (float(x) for x in figure.box.split())
    across = pdf.epw if figure.wide else pdf.epw / 2
    tall = across * high / wide
    pdf.ln(3)
    if pdf.will_page_break(min(tall + 16, pdf.eph)):
        pdf.add_page()
    pdf.set_font("body", "B", 13)
    pdf.cell(0, 7, figure.title, new_x="LMARGIN", new_y="NEXT")
    if tall > pdf.eph - 30:
        across, tall = across * (pdf.eph - 30) / tall, pdf.eph - 30
    top = pdf.get_y()
    pdf.image(BytesIO(svg), pdf.l_margin, top, across, tall)
    pdf.set_xy(pdf.l_margin, top + tall + 1)
    pdf.set_font("body", "", 8.5)
    pdf.line_of(figure.words)


def _signatures(pdf: RecordPdf, signatures: Sequence[tuple[str, str]]) -> None:
    """Signatures as they were drawn, beside each other, whose below each."""
    wide = 80.0
    high = wide * SIGNED_HIGH / SIGNED_WIDE
    if signatures and pdf.will_page_break(high + 12):
        pdf.add_page()
    top = pdf.get_y() + 4
    for n, (strokes, whose) in enumerate(signatures):
        left, scale = pdf.l_margin + n * (wide + 8), wide / SIGNED_WIDE
        pdf.set_line_width(0.6)
        for points in strokes_of(strokes):
            dot = points if len(points) > 1 else points * 2
            pdf.polyline([(left + x * scale, top + y * scale) for x, y in dot])
        pdf.set_line_width(0.2)
        pdf.line(left, top + high, left + wide, top + high)
        pdf.set_xy(left, top + high + 1)
        pdf.cell(wide, 5, whose)
        pdf.set_y(top + high + 8)


def _section(pdf: RecordPdf, section: Section) -> None:
    pdf.ln(3)
    if pdf.will_page_break(24):
        pdf.add_page()
    pdf.set_font("body", "B", 13)
    pdf.cell(0, 7, section.title, new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("body", "", 8.5)
    with pdf.table(
        col_widths=tuple(c.share for c in section.columns),
        line_height=4.6,
        borders_layout=TableBordersLayout.HORIZONTAL_LINES,
        text_align="LEFT",
        first_row_as_headings=section.headed,
    ) as table:
        if section.headed:
            table.row(tuple(c.head for c in section.columns))
        for row in section.rows:
            table.row(row.cells)


def _pictures(
    pdf: RecordPdf, pictures: Sequence[Shown], content_of: Callable[[str], bytes | None]
) -> None:
    """The pictures, two beside each other, each with its words below."""
    shown = [(p, content_of(p.picture.name)) for p in pictures if p.here]
    width, height = PICTURE_MM
    for i, (one, content) in enumerate(shown):
        if i % 2 == 0:
            pdf.ln(3)
            if pdf.will_page_break(height + 6):
                pdf.add_page()
            top = pdf.get_y()
        left = pdf.l_margin + (i % 2) * (width + 6)
        pdf.image(BytesIO(content or b""), left, top, width, height, keep_aspect_ratio=True)
        pdf.set_xy(left, top + height)
        pdf.cell(width, 5, f"{one.words}. {one.picture.by}, {moment(one.picture.at)}")
        if i % 2 or i == len(shown) - 1:
            pdf.set_xy(pdf.l_margin, top + height + 6)
