"""Rendering pages: the template environment and the filters that show quantities."""

import secrets
from pathlib import Path
from typing import Any
from zlib import crc32

from fastapi.responses import HTMLResponse, Response
from jinja2 import (
    Environment,
    FileSystemLoader,
    StrictUndefined,
    pass_context,
    select_autoescape,
)
from jinja2.runtime import Context
from markupsafe import Markup

from fairline.core.charge.override import THINGS
from fairline.core.check import capitalized, plural
from fairline.core.hand_over.stage import called_otherwise
from fairline.core.handbook import cautions, purpose, words_of
from fairline.core.job import Job
from fairline.core.limits import AUTHORITY_WORDS
from fairline.core.mount.stud import STUD_M
from fairline.core.procedures.procedure import plain
from fairline.core.proofs import difference_words as differs
from fairline.core.quantities import duration, grouped, preferring, rounded, show
from fairline.core.seal import spoken
from fairline.core.sheet.head import FORMS
from fairline.core.sheet.outdoor import SYSTEMS
from fairline.core.stages import BESIDE, TITLES
from fairline.core.units import KINDS, System
from fairline.store.document import NotFoundError
from fairline.web.drawing.fitting import fitting
from fairline.web.drawing.scale import scale
from fairline.web.drawing.svg import ink
from fairline.web.frame.forms import Form
from fairline.web.frame.judged_job import JudgedJob, with_uid
from fairline.web.frame.moments import clock_warning, moment, use_zone, zone_words
from fairline.web.frame.plate import (
    VERDICT_WORDS,
    bar,
    does,
    place_next,
    place_of,
    plate_check,
    plate_limit,
    sealed_bar,
)
from fairline.web.frame.request_context import RequestContext, remember
from fairline.web.frame.unit_fields import in_field, keys_for

HERE = Path(__file__).parent.parent


def quantity(value: float, kind: str, system: System) -> str:
    """A value in one system, number and unit."""
    if kind == "duration":
        return duration(value)
    return show(value, kind, system).text if kind else f"{value:g}"


MOST_PEOPLE = 12


def people(judged: JudgedJob) -> list[str]:
    """Who has recorded something on a job, the last first: offered where a name is asked."""

    def look() -> list[str]:
        named = [str(getattr(r, "by", "")) for r in reversed(judged.job.records)]
        return list(dict.fromkeys(name for name in named if name))[:MOST_PEOPLE]

    found: list[str] = judged.once("people", look)
    return found


def caution_mark(job_id: int, words: str) -> str:
    """What a caution is known by on one job, once it was read there."""
    return f"{job_id}-{crc32(words.encode()):08x}"


def hms(seconds: float) -> str:
    """A clock: ``2:14`` minutes and seconds, ``19:42:00`` from an hour on."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    minutes, left = divmod(rest, 60)
    return f"{hours}:{minutes:02}:{left:02}" if hours else f"{minutes}:{left:02}"


def once(judged: JudgedJob, macro: Any, shown: Any, *told: Any) -> Markup:
    """What a macro makes of a judged job, made once for its revision.

    ``shown`` is of the job, and the same for the same ``told``: stage, system, and the like.
    """
    found: Markup = judged.once((macro.name, told), lambda: macro(shown, *told))
    return found


def environment() -> Environment:
    env = Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        auto_reload=False,  # they ship with the application, and do not change while it runs
        trim_blocks=True,
        lstrip_blocks=True,
    )
    env.globals.update(
        STAGES=TITLES,
        BESIDE=BESIDE,
        VERDICTS=VERDICT_WORDS,
        AUTHORITIES=AUTHORITY_WORDS,
        KINDS=KINDS,
        fitting=fitting,
        scale=scale,
        show=show,
        rounded=rounded,
        grouped=grouped,
        quantity=quantity,
        plate_check=plate_check,
        plate_limit=plate_limit,
        Form=Form,
        hms=hms,
        caution_mark=caution_mark,
        people=people,
        STUD_M=STUD_M,
        CAUTIONS=cautions(),
        purpose=purpose,
        words_of=words_of,
        in_field=in_field,
        keys_for=keys_for,
        place_of=place_of,
        place_next=place_next,
        bar=bar,
        sealed_bar=sealed_bar,
        does=does,
        SYSTEMS=SYSTEMS,
        FORMS=FORMS,
        once=once,
        once_only=once_only,
        clock_warning=clock_warning,
        zone_words=zone_words,
    )
    sending: Any = env.get_template("sending.html").module
    env.globals.update(asks=sending.asks, orders=sending.orders)

    @pass_context
    def sends(context: Context, at: str) -> Markup:
        """The attributes of a form that sends to an address; of a job that is sealed it is not."""
        job = context.get("job")
        sealed = isinstance(job, Job) and job.handed_over is not None
        return Markup("data-sealed") if sealed else Markup(sending.sends(at))

    env.globals["sends"] = sends
    env.filters["say"] = preferring
    env.filters["with_uid"] = with_uid
    env.filters["plain_step"] = plain
    env.filters["capitalize"] = capitalized  # Jinja's own would write "head e", "Emt"
    env.filters["moment"] = moment
    env.filters["fours"] = spoken
    env.filters["ink"] = ink
    env.filters["differs"] = differs
    env.filters["as_option"] = lambda school: (school.name, school.label)
    env.filters["thing_passed"] = lambda name: THINGS.get(name, name)
    env.filters["named"] = lambda topic: (topic.name, topic.label)
    env.filters["twice"] = lambda value: (value, value)
    return env


def once_only() -> Markup:
    """A mark of one form on one page: what it sends is kept once, however often it is pressed."""
    return Markup(f'<input type="hidden" name="_once" value="{secrets.token_hex(12)}">')


ENVIRONMENT = environment()


def asset_version() -> str:
    """Changes whenever a shipped style or script does, so that browsers fetch it anew."""
    files = [f for ends in ("css", "js") for f in (HERE / "static").rglob(f"*.{ends}")]
    return f"{int(max(f.stat().st_mtime for f in files)):x}"


ASSETS = asset_version()


def jpeg(content: bytes | None) -> Response:
    """A kept picture. Raises NotFoundError where it is not kept."""
    if content is None:
        raise NotFoundError("this picture is not kept here")
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(content, media_type="image/jpeg", headers=headers)


def render(template: str, ctx: RequestContext, **context: Any) -> Markup:
    use_zone(ctx.zone)
    return Markup(
        ENVIRONMENT.get_template(template).render(
            ctx=ctx,
            system=ctx.system,
            theme=ctx.theme,
            person=ctx.person,
            assets=ASSETS,
            path=ctx.request.url.path,
            **context,
        )
    )


def page(template: str, ctx: RequestContext, status: int = 200, **context: Any) -> HTMLResponse:
    response = HTMLResponse(render(template, ctx, **context), status)
    who = ctx.admitted.person  # by which a phone drops the pages of another
    response.headers["Fairline-Person"] = str(who.id) if who else "0"
    if ctx.new_hand:
        remember(response, "hand", ctx.hand)
    return response


def after(stage: str) -> str | None:
    """The stage that follows on the line."""
    names = list(TITLES)
    following = names.index(stage) + 1
    return names[following] if following < len(names) else None


def job_context(judged: JudgedJob, stage: str) -> dict[str, Any]:
    """What every page of a job shows: the line, the plate, the limits."""
    day = judged.job.handed_over
    return {
        "j": judged,
        "job": judged.job,
        "rules": judged.rules,
        "stages": judged.stages,
        "stage": stage,
        "stage_call": judged.stages[stage],
        "title": TITLES[stage],
        "next_stage": after(stage),
        "system_words": system_words(judged),
        "otherwise": called_otherwise(day, judged.stages) if day else {},
    }


def system_words(judged: JudgedJob) -> str:
    """``single zone``, ``multi-zone, home runs, 3 heads``: what is being built."""
    outdoor, count = judged.rules.outdoor, len(judged.job.survey.now)
    kind = SYSTEMS[outdoor.system].lower() if outdoor else "single zone"
    return f"{kind}, {plural(count, 'head')}" if count > 1 else kind
