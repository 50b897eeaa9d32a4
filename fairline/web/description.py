"""The API described: every endpoint that speaks JSON, with the models that it validates with."""

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from pydantic import BaseModel
from pydantic.json_schema import models_json_schema

from fairline.core.calc.door import CALCULATIONS
from fairline.core.call import Frozen, StageCall
from fairline.core.instrument import Introduction, SpotReading
from fairline.core.job import Job
from fairline.core.readings import Reading
from fairline.store.instruments import RunLine
from fairline.store.sheets_file import SheetsFile
from fairline.store.shelf import Imported
from fairline.web.api import (
    InstrumentMade,
    JobLine,
    JobNamed,
    Made,
    NextNumber,
    PictureLine,
    RunMade,
    Stored,
)
from fairline.web.bench.rig_line import RigLine

Schema = dict[str, Any]
PROBLEM_TYPE = "application/problem+json"
REFERENCE = "#/components/schemas/{model}"
PICTURES = ("image/jpeg", "image/png", "image/webp")


class FieldProblem(Frozen):
    field: str
    reason: str


class Problem(Frozen):
    """What is wrong with a request, as RFC 9457 has it."""

    type: str
    title: str
    status: int
    detail: str | None = None
    errors: list[FieldProblem] | None = None


class CalculationLine(Frozen):
    """A computation: its name, what it is about, the JSON Schema of its request and answer."""

    name: str
    about: str
    request: dict[str, Any]
    answer: dict[str, Any]


class PictureMade(Frozen):
    name: str


ASKED: list[type[BaseModel]] = [
    Job,
    Reading,
    Introduction,
    SpotReading,
    SheetsFile,
    *(c.request for c in CALCULATIONS.values()),
]
ANSWERED: list[type[BaseModel]] = [
    *(Problem, CalculationLine, JobLine, Made, RunMade, Stored, PictureLine, PictureMade),
    *(RunLine, RigLine, SpotReading, InstrumentMade, NextNumber, JobNamed),
    *(Job, StageCall, SheetsFile, Imported),
]
ANSWERED += [c.answer for c in CALCULATIONS.values()]


def description(app: FastAPI) -> Schema:
    """The OpenAPI document: FastAPI's own of paths and parameters, with what it cannot see."""
    if app.openapi_schema:
        return app.openapi_schema
    whole = get_openapi(
        title=app.title, version="1", routes=app.routes, description=(__doc__ or "").strip()
    )
    models = [(m, "validation") for m in ASKED] + [(m, "serialization") for m in ANSWERED]
    known, schemas = models_json_schema(models, ref_template=REFERENCE)  # type: ignore[arg-type]
    whole["components"] = {"schemas": schemas["$defs"]}

    def asked(model: type[BaseModel]) -> Schema:
        return known[model, "validation"]

    def answered(model: type[BaseModel]) -> Schema:
        return known[model, "serialization"]

    paths = whole["paths"]
    several: dict[tuple[str, str], tuple[Schema | None, Schema, int]] = {
        ("/api/calc", "get"): (None, _list(answered(CalculationLine)), 200),
        ("/api/jobs", "get"): (None, _list(answered(JobLine)), 200),
        ("/api/jobs", "post"): (asked(Job), answered(Made), 201),
        ("/api/jobs/{job_id}", "get"): (None, answered(Job), 200),
        ("/api/jobs/{job_id}/named", "get"): (None, answered(JobNamed), 200),
        ("/api/jobs/{job_id}/calls", "get"): (None, _each(answered(StageCall)), 200),
        ("/api/jobs/{job_id}/runs", "get"): (None, _list(answered(RunLine)), 200),
        ("/api/jobs/{job_id}/rig", "get"): (None, answered(RigLine), 200),
        ("/api/jobs/{job_id}/instruments", "get"): (None, _list(answered(SpotReading)), 200),
        ("/api/jobs/{job_id}/instruments", "post"): (
            asked(Introduction),
            answered(InstrumentMade),
            201,
        ),
        ("/api/jobs/{job_id}/instruments/next", "get"): (None, answered(NextNumber), 200),
        ("/api/jobs/{job_id}/instruments/readings", "post"): (
            _list(asked(SpotReading)),
            answered(Stored),
            200,
        ),
        ("/api/jobs/{job_id}/runs/{kind}", "post"): (None, answered(RunMade), 201),
        ("/api/jobs/{job_id}/runs/{uid}/readings", "post"): (
            _list(asked(Reading)),
            answered(Stored),
            200,
        ),
        ("/api/sheets", "get"): (None, answered(SheetsFile), 200),
        ("/api/sheets", "post"): (asked(SheetsFile), answered(Imported), 200),
        ("/api/sheets/schema", "get"): (None, {"type": "object"}, 200),
        ("/api/jobs/{job_id}/pictures", "get"): (None, _list(answered(PictureLine)), 200),
        ("/api/jobs/{job_id}/pictures", "post"): ({}, answered(PictureMade), 201),
    }
    for (path, method), (request, answer, status) in several.items():
        _told(paths[path][method], request, answer, status, answered(Problem))
    _told(paths["/api/jobs/{job_id}/pictures/{name}.jpg"]["get"], None, {}, 200, answered(Problem))
    one = paths.pop("/api/calc/{name}")["post"]
    for name, calculation in CALCULATIONS.items():
        told = {"summary": name, "operationId": f"calc_{name}", "tags": one.get("tags", [])}
        told["description"] = (calculation.function.__doc__ or "").strip()
        _told(
            told, asked(calculation.request), answered(calculation.answer), 200, answered(Problem)
        )
        paths[f"/api/calc/{name}"] = {"post": told}
    app.openapi_schema = whole
    return whole


def _list(schema: Schema) -> Schema:
    return {"type": "array", "items": schema}


def _each(schema: Schema) -> Schema:
    return {"type": "object", "additionalProperties": schema}


def _told(
    operation: Schema, request: Schema | None, answer: Schema, status: int, problem: Schema
) -> None:
    """One endpoint's body and answers; what it refuses is a problem document."""
    if request is not None:
        types = ("application/json",) if request else PICTURES
        schema = request or {"type": "string", "format": "binary"}
        operation["requestBody"] = {
            "required": True,
            "content": {one: {"schema": schema} for one in types},
        }
    told = {PROBLEM_TYPE: {"schema": problem}}
    media = "application/json" if answer else "image/jpeg"
    good = {media: {"schema": answer} if answer else {}}
    operation["responses"] = {
        str(status): {"description": "The answer", "content": good},
        "4XX": {"description": "What is wrong with the request", "content": told},
    }
