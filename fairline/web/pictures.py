"""Pictures of joints: added on the joint's card, shown there and in the record."""

from fastapi import APIRouter
from fastapi.responses import Response

from fairline.core.picture import JointPicture
from fairline.store import jobs, pictures
from fairline.store.document import NotFoundError, now
from fairline.web.flare import at_hand, joints_of
from fairline.web.stage import stage_page
from fairline.web.visit import AForm, AVisit, JobId

router = APIRouter(include_in_schema=False)


@router.post("/jobs/{job_id}/flare/pictures")
def add_picture(job_id: JobId, data: AForm, visit: AVisit) -> Response:
    """Keep a picture of one joint."""
    judged = visit.judged(job_id)
    place, file = str(data.get("place") or ""), data.get("file")
    found = joints_of(judged)
    if place not in [j.place for j in found]:
        raise NotFoundError("there is no such joint to take a picture of")
    content = b"" if file is None or isinstance(file, str) else file.file.read()
    try:
        cleaned = pictures.cleaned(content)
    except pictures.PictureError as error:
        return stage_page(
            visit, judged, "flare", status=422, picture_error=str(error),
            **at_hand(found, place, judged.job.flare, visit.system),
        )  # fmt: skip
    with visit.change() as session:
        name = pictures.keep(session, job_id, cleaned)
        by = visit.person or "not named"
        jobs.append_record(session, job_id, JointPicture(place=place, name=name, by=by, at=now()))
    return visit.onward(f"/jobs/{job_id}/flare?joint={place}")


@router.get("/jobs/{job_id}/pictures/{name}.jpg")
def show_picture(job_id: JobId, name: str, visit: AVisit) -> Response:
    content = pictures.content_of(visit.session, job_id, name)
    if content is None:
        raise NotFoundError("this picture is not kept here")
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(content, media_type="image/jpeg", headers=headers)


@router.post("/jobs/{job_id}/pictures/{name}/out")
def take_out(job_id: JobId, name: str, visit: AVisit) -> Response:
    """Remove what a picture shows; the record goes on saying that one was taken."""
    judged = visit.judged(job_id)
    record = next((p for p in judged.job.pictures if p.name == name), None)
    if record is None:
        raise NotFoundError("there is no such picture")
    with visit.change() as session:
        pictures.take_out(session, job_id, name)
    return visit.onward(f"/jobs/{job_id}/flare?joint={record.place}")
