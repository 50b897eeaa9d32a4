"""Whether the server is well: for whoever watches over it, and for a proxy before it."""

from importlib.metadata import version

from fastapi import APIRouter
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse, Response
from sqlalchemy import text

from fairline.store.document import NotFoundError
from fairline.web.frame.pages import page
from fairline.web.frame.request_context import Context

router = APIRouter(include_in_schema=False)
OWN_CA = "ca.crt"  # in the folder tls of the data


@router.get("/health")
def health(ctx: Context) -> Response:
    """200 where the database answers. It names no job and nobody."""
    ctx.session.execute(text("SELECT 1"))
    return JSONResponse({"well": True, "version": version("fairline")})


@router.get("/certificate")
def certificate_page(ctx: Context) -> HTMLResponse:
    """How a phone comes to trust this server, where it made its own authority."""
    from fairline.store.certificate import fingerprint

    own = ctx.request.app.state.settings.data_dir / "tls" / OWN_CA
    return page(
        "people/certificate.html", ctx, mark=fingerprint(own.read_bytes()) if own.is_file() else ""
    )


@router.get("/certificate.crt")
def certificate(ctx: Context) -> Response:
    """The authority's certificate, which is no secret."""
    own = ctx.request.app.state.settings.data_dir / "tls" / OWN_CA
    if not own.is_file():
        raise NotFoundError("this server made no authority of its own")
    return FileResponse(own, media_type="application/x-x509-ca-cert", filename="fair-line-ca.crt")
