"""What makes the application one that a phone installs, and that opens in the cellar."""

import json
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import JSONResponse, Response

from fairline.web.frame.pages import ASSETS

router = APIRouter(include_in_schema=False)
STATIC = Path(__file__).parent / "static"
SCRIPTS = sorted(script.stem for script in (STATIC / "scripts").glob("*.js"))
FILES = (  # what every page needs, kept before the signal goes
    f"/static/style.css?{ASSETS}",
    f"/static/plans.css?{ASSETS}",
    f"/static/vendor/htmx.min.js?{ASSETS}",
    f"/static/vendor/idiomorph-ext.min.js?{ASSETS}",
    f"/static/vendor/alpine-csp.min.js?{ASSETS}",
    *(f"/static/{ASSETS}/scripts/{name}.js" for name in SCRIPTS),
)


@router.get("/manifest.webmanifest")
def manifest() -> Response:
    """What a phone shows of it on its first screen."""
    return JSONResponse(
        {
            "id": "/",
            "name": "Fair Line",
            "short_name": "Fair Line",
            "start_url": "/",
            "display": "standalone",
            "background_color": "#dfe4de",
            "theme_color": "#11211c",
            "icons": [
                {"src": "/static/icon-192.png", "sizes": "192x192", "type": "image/png"},
                {
                    "src": "/static/icon-512.png",
                    "sizes": "512x512",
                    "type": "image/png",
                    "purpose": "any maskable",
                },
            ],
        },
        media_type="application/manifest+json",
    )


@router.get("/worker.js")
def worker() -> Response:
    """The script that answers where there is no signal; of this version's files."""
    head = f"const VERSION = {json.dumps(ASSETS)};\nconst STATIC = {json.dumps(FILES)};\n"
    own = (STATIC / "worker.js").read_text()
    return Response(head + own, media_type="text/javascript", headers={"Cache-Control": "no-cache"})
