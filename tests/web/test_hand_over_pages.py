"""Hand over's papers: labels read back, dates as a calendar, what is shown of a seal."""

from io import BytesIO

import pytest
import zxingcpp
from PIL import Image
from pypdf import PdfReader

from fairline.web.hand_over.labels import matrix


def drawn(rows, scale=4, quiet=4):
    """A code as a picture, as a printer lays it down."""
    side = len(rows) + 2 * quiet
    image = Image.new("L", (side, side), 255)
    for y, row in enumerate(rows):
        for x, dark in enumerate(row):
            image.putpixel((x + quiet, y + quiet), 0 if dark else 255)
    return image.resize((side * scale, side * scale), Image.NEAREST)


@pytest.mark.parametrize(
    "text",
    ["Bindery: Outdoor unit\nR-32\n29' 9\"", "Hof 3: Leitung Ä · 9,07 m", "x" * 900],
)
def test_what_is_on_a_label_is_read_back_by_a_decoder(text):
    (found,) = zxingcpp.read_barcodes(drawn(matrix(text)))
    assert found.text == text


def test_every_label_of_the_largest_job_is_read_back(demo):
    """Each code of job 8's page, as SVG, holds the words beside it and no address."""
    page = demo.get("/jobs/8/labels").text
    assert page.count("<figure>") >= 12 and "http" not in page.split("label-sheet")[1]
    pdf = PdfReader(BytesIO(demo.get("/jobs/8/labels.pdf?paper=roll").content))
    assert len(pdf.pages) > page.count("<figure>")  # lines and cables have one an end
    assert "PRACTICE" in pdf.pages[0].extract_text()
    svg = demo.get("/jobs/8/labels/outdoor.svg")
    assert svg.headers["content-type"] == "image/svg+xml" and "Outdoor unit" in svg.text
    assert demo.get("/jobs/8/labels/none.svg").status_code == 404


@pytest.mark.parametrize(
    ("paper", "size"), [("a4", (595, 842)), ("letter", (612, 792)), ("roll", (283, 176))]
)
def test_labels_come_on_three_papers(demo, paper, size):
    pdf = PdfReader(BytesIO(demo.get(f"/jobs/1/labels.pdf?paper={paper}").content))
    box = pdf.pages[0].mediabox
    assert (round(box.width), round(box.height)) == size
    assert demo.get("/jobs/1/labels.pdf?paper=a5").status_code == 422
