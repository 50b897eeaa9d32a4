"""What leaves as a file: its name, and the answer that carries it."""

import re

from fastapi.responses import Response


def file_name(name: str, job_id: int, ending: str) -> str:
    """A plain name for a job's file.

    >>> file_name("Müller & Sons", 3, "pdf")
    'm-ller-sons-3.pdf'
    """
    plain = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower() or "job"
    return f"{plain[:40]}-{job_id}.{ending}"


def answered(content: bytes, kind: str, name: str, inline: bool = True) -> Response:
    """A file as an answer, shown in the browser or, not ``inline``, to be kept."""
    how = "inline" if inline else "attachment"
    headers = {"Content-Disposition": f'{how}; filename="{name}"'}
    return Response(content, media_type=kind, headers=headers)
