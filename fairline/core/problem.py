"""What is wrong with a request, as RFC 9457 problem JSON."""

from typing import Any

from pydantic import ValidationError

RUN_KINDS = ("hold", "pull", "decay")  # by which a run's model is chosen


def field_path(location: tuple[int | str, ...]) -> str:
    """``("legs", 0, "length_m")`` as ``legs.0.length_m``; a run's kind is no place in it."""
    run = location[:1] == ("runs",)
    parts = [p for n, p in enumerate(location) if not (run and n == 2 and p in RUN_KINDS)]
    return ".".join(str(part) for part in parts)


_SENTENCES = {  # by the library's own name of what is wrong; {…} from its context
    "extra_forbidden": "this field is not known here",
    "missing": "this field is needed",
    "finite_number": "not-a-number and infinity are refused",
    "int_parsing": "a whole number is needed, such as 3",
    "int_type": "a whole number is needed, such as 3",
    "int_from_float": "a whole number is needed, such as 3",
    "int_parsing_size": "this number is too large",
    "float_parsing": "a number is needed, such as 3.5",
    "float_type": "a number is needed, such as 3.5",
    "bool_parsing": "true or false is needed",
    "bool_type": "true or false is needed",
    "string_type": "text is needed",
    "string_too_long": "at most {max_length} characters",
    "string_too_short": "this cannot be blank",
    "string_pattern_mismatch": "this is not spelled as it has to be",
    "string_unicode": "this is not text",
    "literal_error": "it must be {expected}",
    "enum": "it must be {expected}",
    "greater_than_equal": "must be at least {ge}",
    "greater_than": "must be more than {gt}",
    "less_than_equal": "must be at most {le}",
    "less_than": "must be less than {lt}",
    "too_long": "at most {max_length} of them",
    "too_short": "at least {min_length} are needed",
    "list_type": "a list is needed",
    "tuple_type": "a list is needed",
    "dict_type": "an object with fields is needed",
    "model_type": "an object with fields is needed",
    "model_attributes_type": "an object with fields is needed",
    "json_invalid": "this is not JSON: {error}",
    "json_type": "this is not JSON",
    "union_tag_invalid": "no such kind is known here; one of {expected_tags}",
    "union_tag_not_found": "its kind is needed",
    "timezone_aware": "the moment needs its zone, such as 2026-03-05T17:40Z",
}


def sentence(error: Any) -> str:
    """One validation error as a sentence of ours, never the library's."""
    kind = str(error["type"])
    if kind in ("value_error", "assertion_error"):
        return str(error["msg"]).removeprefix("Value error, ").removeprefix("Assertion failed, ")
    if kind.startswith(("datetime", "date_", "time_")):
        return "a date and time is needed, such as 2026-03-05T17:40Z"
    told = _SENTENCES.get(kind, "this is not understood")
    context = {k: str(v).replace("'", "") for k, v in (error.get("ctx") or {}).items()}
    try:
        return told.format_map(context)
    except KeyError:
        return "this is not understood"


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
        for e in error.errors(include_url=False)[:50]
    ]
    first = errors[0]
    return problem(
        status, "The request is not valid", f"{first['field']}: {first['reason']}", errors
    )
