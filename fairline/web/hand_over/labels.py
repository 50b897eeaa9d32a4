"""Labels: a page of them all, PDF sheets in three sizes, each as SVG with its code."""

from itertools import groupby
from textwrap import wrap
from typing import Literal

from fastapi import APIRouter
from fastapi.responses import HTMLResponse, Response
from markupsafe import Markup

from fairline.core.hand_over.labels import Job, Label, labels
from fairline.core.hand_over.stage import HandOverStageResult
from fairline.core.quantities import preferring
from fairline.core.route.entry import OUTDOOR
from fairline.core.seal import spoken
from fairline.core.units import System
from fairline.core.wire.stage import WireStageResult
from fairline.store.document import NotFoundError
from fairline.web.drawing.svg import drawing, tag
from fairline.web.frame.judged_job import JudgedJob
from fairline.web.frame.pages import job_context, page
from fairline.web.frame.request_context import Context, JobId
from fairline.web.hand_over.files import answered, file_name

router = APIRouter(include_in_schema=False)
QR_SIDE, LINE_HIGH = 150.0, 21.0
ACROSS = 40  # letters of a line beside the code
Paper = Literal["a4", "letter", "roll"]


def of_job(judged: JudgedJob) -> list[Label]:
    """Every label of a judged job."""
    job, day = judged.job, judged.job.handed_over
    installers = dict.fromkeys([j.by for j in judged.counted.joints] + ([day.by] if day else []))
    about = Job(
        name=job.head.name,
        site=job.head.site,
        company=job.head.company,
        phone=job.head.company_phone,
        installers=tuple(installers),
        serial=job.survey.box(OUTDOOR).serial,
        practice=job.head.practice,
        digest=spoken(day.seal) if day and day.seal else "",
    )
    unit, wiring = judged.of(HandOverStageResult).label, judged.of(WireStageResult).wiring
    return labels(about, unit, wiring, job.wire.supply(OUTDOOR))


def matrix(data: str) -> list[list[bool]]:
    """The code (ISO/IEC 18004) of some text as rows of dark and light, without its quiet zone."""
    import segno

    return [[bool(dark) for dark in row] for row in segno.make(data, error="m", micro=False).matrix]


def label_svg(label: Label, system: System) -> Markup:
    """One label as a drawing: its words, and at its right the code."""
    rows = matrix(label.data)
    module = QR_SIDE / len(rows)
    said = [part for x in label.lines for part in wrap(preferring(x, system), ACROSS)]
    high = max(QR_SIDE + 28, 62 + LINE_HIGH * len(said) + 10)
    return drawing(
        560,
        high,
        f"Label: {label.title}. {'. '.join(said)}",
        "label-drawn",
        tag("rect", x=1.0, y=1.0, width=558.0, height=high - 2, rx=8.0, fill="#fff", stroke="#000"),
        _text(16.0, 40.0, label.title, 28, 700),
        *(_text(16.0, 70 + LINE_HIGH * n, line, 17, 400) for n, line in enumerate(said)),
        tag("path", d=_dark(rows), fill="#000", transform=f"translate(394 14) scale({module:.4f})"),
    )


def _dark(rows: list[list[bool]]) -> str:
    """The dark modules as path data, a box for each run of them in a row, a module the unit."""
    found = []
    for y, row in enumerate(rows):
        x = 0
        for dark, of in groupby(row):
            n = len(list(of))
            if dark:
                found.append(f"M{x} {y}h{n}v1h-{n}z")
            x += n
    return "".join(found)


def _text(x: float, y: float, words: str, size: int, weight: int) -> Markup:
    return tag(
        "text", words, x=x, y=y, font_family="sans-serif", font_size=size, font_weight=weight
    )


@router.get("/jobs/{job_id}/labels")
def all_labels(job_id: JobId, ctx: Context) -> HTMLResponse:
    judged = ctx.judged(job_id)
    drawn = [(one, label_svg(one, ctx.system)) for one in of_job(judged)]
    context = job_context(judged, "hand-over")
    return page("hand_over/labels.html", ctx, **context, drawn=drawn)


@router.get("/jobs/{job_id}/labels.pdf")
def sheets(job_id: JobId, ctx: Context, paper: Paper = "a4") -> Response:
    """All labels on sheets, or one a page for a label printer of 62 × 100 mm."""
    from fairline.web.record.label_pdf import write_labels

    judged = ctx.judged(job_id)
    made = [(one, matrix(one.data)) for one in of_job(judged)]
    content = write_labels(judged.job.head.name, made, paper, ctx.system)
    name = file_name(f"{judged.job.head.name} labels", judged.id, "pdf")
    return answered(content, "application/pdf", name)


@router.get("/jobs/{job_id}/labels/{label}.svg")
def one_label(job_id: JobId, label: str, ctx: Context) -> Response:
    judged = ctx.judged(job_id)
    found = next((one for one in of_job(judged) if one.id == label), None)
    if found is None:
        raise NotFoundError("there is no such label")
    drawn = str(label_svg(found, ctx.system)).replace(
        "<svg", '<svg xmlns="http://www.w3.org/2000/svg"', 1
    )
    name = file_name(f"{judged.job.head.name} {label}", judged.id, "svg")
    return answered(drawn.encode(), "image/svg+xml", name)
