"""The owner's page as a PDF: large type, a heading and its sentences after another."""

from collections.abc import Sequence

from fairline.core.hand_over.owner import Part
from fairline.core.quantities import preferring
from fairline.core.units import System
from fairline.web.record.pdf import RecordPdf


def write_owner(name: str, heading: Sequence[str], parts: Sequence[Part], system: System) -> bytes:
    """One part after another; a heading never stands alone at the foot of a page."""
    pdf = RecordPdf(name, "For the owner")
    pdf.add_page()
    pdf.set_font("body", "B", 22)
    pdf.multi_cell(0, 9, name, new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("body", "", 11)
    for line in heading:
        pdf.line_of(line)
    for part in parts:
        pdf.ln(3)
        if pdf.will_page_break(22):
            pdf.add_page()
        pdf.set_font("body", "B", 14)
        pdf.cell(0, 8, part.title, new_x="LMARGIN", new_y="NEXT")
        pdf.set_font("body", "", 12)
        for line in part.lines:
            pdf.multi_cell(0, 6.2, preferring(line, system), new_x="LMARGIN", new_y="NEXT")
    return bytes(pdf.output())
