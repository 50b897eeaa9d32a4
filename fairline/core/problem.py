"""What is wrong with a request, as RFC 9457 problem JSON."""

from typing import Any

from pydantic import ValidationError


def field_path(location: tuple[int | str, ...]) -> str:
    """``("legs", 0, "length_m")`` as ``legs.0.length_m``."""
    return ".".join(str(part) for part in location)


def sentence(error: Any) -> str:
    """One validation error as a plain sentence, without the library's own prefix."""
    kind, message = error["type"], str(error["msg"])
    if kind == "extra_forbidden":
        return "this field is not known here"
    if kind == "missing":
        return "this field is needed"
    if kind == "finite_number":
        return "not-a-number and infinity are refused"
    return message.removeprefix("Value error, ").removeprefix("Assertion failed, ")


def problem(status: int, title: str, detail: str = "", errors: Any = ()) -> dict[str, Any]:
    """A problem document; ``errors`` names each field and the reason."""
    body: dict[str, Any] = {"type": "about:blank", "title": title, "status": status}
    if detail:
        body["detail"] = detail
    if errors:
        body["errors"] = list(errors)
    return body


def from_validation(error: ValidationError, status: int = 422) -> dict[str, Any]:
    errors = [
        {"field": field_path(e["loc"]) or "(whole request)", "reason": sentence(e)}
        for e in error.errors(include_url=False, include_context=False)[:50]
    ]
    first = errors[0]
    return problem(
        status, "The request is not valid", f"{first['field']}: {first['reason']}", errors
    )
