"""Labels as a PDF: two beside each other on a sheet, or one a page for a label printer."""

from collections.abc import Sequence

from fairline.core.hand_over.labels import Label
from fairline.core.quantities import preferring
from fairline.core.units import System
from fairline.web.record.pdf import RecordPdf

WIDE, HIGH = 88.0, 56.0  # mm, of a label on a sheet
ROLL = (100.0, 62.0)  # mm, of a label printer's label
QR_MM = 28.0
Code = list[list[bool]]


def write_labels(
    name: str, labels: Sequence[tuple[Label, Code]], paper: str, system: System
) -> bytes:
    """Each label as often as it is stuck on. ``paper``: a4, letter, or roll."""
    pdf = RecordPdf(name, "Labels", footed=paper != "roll", size=ROLL if paper == "roll" else paper)
    pdf.set_auto_page_break(False)
    each = [(label, code) for label, code in labels for _ in range(label.copies)]
    if paper == "roll":
        for label, code in each:
            pdf.add_page()
            _label(pdf, label, code, (4.0, 4.0), ROLL[0] - 8, system)
        return bytes(pdf.output())
    down = int((pdf.h - 30) // (HIGH + 3))
    for n, (label, code) in enumerate(each):
        at = n % (2 * down)
        if at == 0:
            pdf.add_page()
        x, y = 14 + (at % 2) * (WIDE + 4), 14 + (at // 2) * (HIGH + 3)
        pdf.set_draw_color(150)
        pdf.rect(x, y, WIDE, HIGH)
        _label(pdf, label, code, (x + 3, y + 3), WIDE - 6, system)
    return bytes(pdf.output())


def _label(
    pdf: RecordPdf, label: Label, code: Code, at: tuple[float, float], wide: float, system: System
) -> None:
    x, y = at
    pdf.set_xy(x, y)
    pdf.set_font("body", "B", 16)
    pdf.multi_cell(wide - QR_MM - 3, 7, label.title, new_x="LEFT", new_y="NEXT", align="L")
    pdf.set_font("body", "", 9)
    for line in label.lines:
        pdf.set_x(x)
        pdf.multi_cell(
            wide - QR_MM - 3, 4.2, preferring(line, system), new_x="LEFT", new_y="NEXT", align="L"
        )
    module = QR_MM / len(code)
    pdf.set_fill_color(0)
    for row, darks in enumerate(code):
        for column, dark in enumerate(darks):
            if dark:
                left, top = x + wide - QR_MM + column * module, y + row * module
                pdf.rect(left, top, module * 1.02, module * 1.02, style="F")
