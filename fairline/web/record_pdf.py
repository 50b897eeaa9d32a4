"""The record as a PDF: the same content as the page, laid out with fpdf2."""

from collections.abc import Sequence
from io import BytesIO
from pathlib import Path
from typing import Any

from fpdf import FPDF
from fpdf.enums import TableBordersLayout

from fairline.core.line import STAGES
from fairline.core.quantities import preferring
from fairline.core.units import System
from fairline.web.pages import (
    AUTHORITY_WORDS,
    VERDICT_WORDS,
    hms,
    kind_for,
    moment,
    quantity,
    stage_kind,
)

FONTS = Path(__file__).parent / "static" / "fonts"
Rows = Sequence[tuple[str, ...]]

RUN_WORDS = {"hold": "Nitrogen hold", "pull": "Pull", "decay": "Decay"}


class RecordPdf(FPDF):
    """A4 pages with the job's name and the page number at the foot."""

    def __init__(self, name: str) -> None:
        super().__init__(format="A4")
        self.name = name
        self.add_font("body", "", FONTS / "DejaVuSansCondensed.ttf")
        self.add_font("body", "B", FONTS / "DejaVuSansCondensed-Bold.ttf")
        self.set_margins(16, 14, 16)
        self.set_auto_page_break(True, 16)
        self.set_title(f"Record: {name}")
        self.set_creator("Fair Line")

    def footer(self) -> None:
        self.set_y(-12)
        self.set_font("body", "", 8)
        self.cell(0, 5, f"{self.name} · page {self.page_no()} of {{nb}}", align="R")


def write_record(context: dict[str, Any], system: System) -> bytes:
    """The record of one job; the context is the record page's own."""
    job = context["job"]
    pdf = RecordPdf(job.head.name)
    pdf.add_page()
    _heading(pdf, job, context["units"])
    _section(
        pdf,
        "Calls",
        [("Stage", 22), ("Verdict", 16), ("Why", 110)],
        [
            (
                title,
                VERDICT_WORDS[context["stages"][name].call.verdict],
                preferring(context["stages"][name].call.because, system),
            )
            for name, title in STAGES.items()
        ],
    )
    _section(
        pdf,
        "Places",
        [("What", 46), ("Measured", 22), ("Limit", 30), ("Says", 58), ("", 14)],
        _place_rows(context, system),
    )
    _section(
        pdf,
        "Where this job differs from house practice",
        [("When", 30), ("What", 110), ("By", 24)],
        _departure_rows(context),
    )
    _section(pdf, "Run and charge", [("What", 40), ("Value", 100)], _label_rows(context, system))
    _section(
        pdf,
        "Joints",
        [
            ("Joint", 34),
            ("Tube", 22),
            ("At the nut", 20),
            ("Wanted", 34),
            ("Flare or seam", 30),
            ("By", 20),
            ("When", 26),
        ],
        _joint_rows(context, system),
    )
    _pictures(pdf, context)
    _section(
        pdf,
        "Looked at for leaks",
        [("When", 30), ("Joint", 44), ("How", 44), ("Found", 18), ("By", 28)],
        _check_rows(context),
    )
    _section(
        pdf,
        "Limits that governed",
        [("Stage", 20), ("Limit", 32), ("Value", 22), ("Says", 56), ("Displaced", 40)],
        _limit_rows(context, system),
    )
    _section(
        pdf,
        "Tests",
        [("Run", 24), ("Begun", 30), ("Readings", 16), ("First", 38), ("Last", 60)],
        _test_rows(job, system),
    )
    _section(
        pdf,
        "Weighed and opened",
        [("When", 30), ("What", 110), ("By", 24)],
        _charge_rows(context["j"].counted, system),
    )
    _section(
        pdf,
        "Running",
        [
            ("Zone", 10),
            ("Mode", 18),
            ("Return", 20),
            ("Supply", 20),
            ("Capacity", 24),
            ("Current", 16),
            ("By", 22),
            ("When", 28),
        ],
        _running_rows(context, system),
    )
    _section(
        pdf,
        "Struck out",
        [("When", 30), ("What", 110), ("By", 24)],
        _strike_rows(context),
    )
    _section(
        pdf,
        "Handed over",
        [("", 16), ("", 130)],
        [
            ("Done" if getattr(job.hand_over, name) else "Open", words)
            for name, words in context["tasks"].items()
        ],
    )
    for words in context["handed"]:
        pdf.multi_cell(0, 5, words, new_x="LMARGIN", new_y="NEXT")
    pdf.ln(3)
    pdf.multi_cell(
        0,
        4.5,
        "Local codes and licensed practice come first. Worked out by Fair Line "
        "from what was measured and entered.",
    )
    return bytes(pdf.output())


def _heading(pdf: RecordPdf, job: Any, units: Sequence[str]) -> None:
    pdf.set_font("body", "B", 22)
    pdf.multi_cell(0, 9, job.head.name, new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("body", "", 10)
    if job.head.practice:
        pdf.multi_cell(
            0, 5, "PRACTICE JOB: simulated readings count here and prove nothing elsewhere.",
            new_x="LMARGIN", new_y="NEXT",
        )  # fmt: skip
    lines = [
        " · ".join(p for p in (job.head.site, job.head.customer) if p),
        " · ".join(p for p in (job.head.company, job.head.company_phone) if p),
        *units,
    ]
    for line in lines:
        if line:
            pdf.multi_cell(0, 5, line, new_x="LMARGIN", new_y="NEXT")


def _section(pdf: RecordPdf, title: str, columns: list[tuple[str, int]], rows: Rows) -> None:
    """A titled table; left out where there is nothing to say."""
    if not rows:
        return
    pdf.ln(3)
    if pdf.will_page_break(24):
        pdf.add_page()
    pdf.set_font("body", "B", 13)
    pdf.cell(0, 7, title, new_x="LMARGIN", new_y="NEXT")
    pdf.set_font("body", "", 8.5)
    heads = tuple(name for name, _ in columns)
    with pdf.table(
        col_widths=tuple(width for _, width in columns),
        line_height=4.6,
        borders_layout=TableBordersLayout.HORIZONTAL_LINES,
        text_align="LEFT",
        first_row_as_headings=any(heads),
    ) as table:
        if any(heads):
            table.row(heads)
        for row in rows:
            table.row(row)


def _place_rows(context: dict[str, Any], system: System) -> Rows:
    rows = []
    for c in context["places"]:
        kind = stage_kind(c, "mount")
        zone = f", {c.id[0]}" if c.id[1:2] == "_" else ""
        bound = "at least" if c.bound == "min" else "at most"
        rows.append(
            (
                c.label + zone,
                "–" if c.value is None else quantity(c.value, kind, system),
                f"{bound} {quantity(c.limit.value, kind, system)}",
                f"{AUTHORITY_WORDS[c.limit.authority]}: {c.limit.source}",
                VERDICT_WORDS[c.call.verdict],
            )
        )
    return rows


def _departure_rows(context: dict[str, Any]) -> Rows:
    rows = []
    for r in context["job"].departures:
        topic = context["topics"][r.topic]
        school = topic.school(r.school).label if r.school else "the house again"
        rows.append((moment(r.at), f"{topic.label}: {school}. {r.reason}", r.by))
    return rows


def _label_rows(context: dict[str, Any], system: System) -> Rows:
    label = context["label"]
    rows = [("Refrigerant", label.refrigerant or "–")]
    for words, key, kind in (
        ("Line, in all", "length_m", "length"),
        ("Factory charge", "factory_kg", "charge"),
        ("Added" if label.weighed else "Added, planned", "added_kg", "charge"),
        ("Total charge", "total_kg", "charge"),
    ):
        value = getattr(label, key)
        rows.append((words, "–" if value is None else quantity(value, kind, system)))
    for run in label.runs if len(label.runs) > 1 else ():
        said = "–" if run.length_m is None else quantity(run.length_m, "length", system)
        named = f"Run {run.tag}" + (f", address {run.address}" if run.address else "")
        rows.append((named, f"{said}{', as built' if run.built else ''}"))
    for port in label.ports:
        where = "" if port.at == "outdoor" else f" of {port.at.replace('box', 'box ')}"
        state = {"used": f"zone {port.zone}", "kept": "kept for a later head"}.get(port.state)
        rows.append((f"Port {port.port}{where}", state or "not used, capped"))
    return rows


def _joint_rows(context: dict[str, Any], system: System) -> Rows:
    rows = []
    for joint in context["joints"]:
        target = joint.answer.result.target_nm if joint.answer else None
        wanted = " to ".join(quantity(t, "torque", system) for t in target) if target else "–"
        record = joint.record
        got = "–"
        if record:
            got = (
                quantity(record.applied_nm, "torque", system)
                + (", simulated" if record.simulated else "")
                if record.applied_nm
                else "brazed"
                if joint.brazed
                else "not measured"
            )
        rows.append(
            (
                joint.label,
                joint.size or "–",
                got,
                wanted,
                context["looked"](joint),
                record.by if record else "–",
                moment(record.at) if record else "–",
            )
        )
    return rows


def _label_of(context: dict[str, Any], place: str) -> str:
    return next((j.label for j in context["joints"] if j.place == place), place)


def _check_rows(context: dict[str, Any]) -> Rows:
    return [
        (
            moment(c.at),
            _label_of(context, c.joint),
            context["methods"][c.method] + (f", {hms(c.watched_s)}" if c.watched_s else ""),
            "leaks" if c.found == "leak" else "clean",
            c.by,
        )
        for c in context["checks"]
    ]


def _pictures(pdf: RecordPdf, context: dict[str, Any]) -> None:
    """The pictures, two beside each other, each with its words below."""
    shown = [(p, context["picture"](p.name)) for p, here in context["pictures"] if here]
    width, height = 86.0, 64.0
    for i, (picture, content) in enumerate(shown):
        if i % 2 == 0:
            pdf.ln(3)
            if pdf.will_page_break(height + 6):
                pdf.add_page()
            top = pdf.get_y()
        left = pdf.l_margin + (i % 2) * (width + 6)
        pdf.image(BytesIO(content), left, top, width, height, keep_aspect_ratio=True)
        pdf.set_xy(left, top + height)
        words = f"{context['shows'][picture.of, picture.place]}. {picture.by}, {moment(picture.at)}"
        pdf.cell(width, 5, words)
        if i % 2 or i == len(shown) - 1:
            pdf.set_xy(pdf.l_margin, top + height + 6)


def _limit_rows(context: dict[str, Any], system: System) -> Rows:
    rows = []
    for name, call in context["stages"].items():
        for limit in call.governed_by:
            kind = kind_for(limit.unit, name, limit.limit)
            displaced = ", ".join(
                f"{AUTHORITY_WORDS[d.authority]} {quantity(d.value, kind, system)}"
                for d in limit.displaced
            )
            rows.append(
                (
                    STAGES[name],
                    limit.limit,
                    quantity(limit.value, kind, system),
                    f"{AUTHORITY_WORDS[limit.authority]}: {limit.source}",
                    displaced,
                )
            )
    return rows


def _seen_off(job: Any, run: Any) -> str:
    seen = next((i for i in job.isolations if i.run == run.uid), None)
    return f", valve shut and pump off seen by {seen.by}" if seen else ""


def _strike_rows(context: dict[str, Any]) -> Rows:
    rows = []
    for strike, words in context["strikes"]:
        when = f" of {moment(strike.of_at)}" if strike.of_at else ""
        rows.append((moment(strike.at), f"{words}{when}: {strike.reason}", strike.by))
    return rows


def _test_rows(job: Any, system: System) -> Rows:
    def said(run: Any, reading: Any) -> str:
        if run.kind != "hold" and reading.pa is not None:
            return quantity(reading.pa, "vacuum", system)
        if run.kind != "hold":
            return quantity(reading.gauge_pa, "needle", system)
        return (
            f"{quantity(reading.gauge_pa, 'gauge', system)}, pipe "
            f"{quantity(reading.pipe_c, 'temperature', system)}"
        )

    return [
        (
            RUN_WORDS[run.kind] + (", simulated" if run.simulated else "") + _seen_off(job, run),
            moment(run.started_at),
            str(len(run.readings)),
            said(run, run.readings[0]),
            f"{said(run, run.readings[-1])}, after {hms(run.readings[-1].t_s)}",
        )
        for run in job.runs
        if run.readings
    ]


def _charge_rows(job: Any, system: System) -> Rows:
    rows = [
        (
            moment(r.at),
            f"Pump on before the test held. Override of {r.by}: {r.reason}",
            r.by,
        )
        for r in job.pump_overrides
    ]
    rows += [
        (
            moment(w.at),
            f"{quantity(w.before_kg, 'cylinder', system)} to "
            f"{quantity(w.after_kg, 'cylinder', system)} {w.cylinder}: "
            f"{quantity(w.into_system_kg, 'charge', system)} into the system",
            w.by,
        )
        for w in job.weighings
    ]
    for r in job.releases:
        words = f"Valves opened, {r.order.replace('_', ' ')}"
        words += "" if r.full_open else ", not full open"
        words += "" if r.caps_on else ", caps off"
        if r.hiss:
            words += ", each valve hissed" if r.hiss == "heard" else ", no hiss"
        if r.overridden:
            words += f". Override of {r.override_by}: {r.override_reason}"
        rows.append((moment(r.at), words, r.by))
    return rows


def _capacity(result: Any, system: System) -> str:
    if result is None:
        return "–"
    if result.total_w is None:
        return f"{quantity(result.sensible_w, 'power', system)} sensible, not proven"
    return quantity(result.total_w, "power", system)


def _running_rows(context: dict[str, Any], system: System) -> Rows:
    return [
        (
            r.zone or "–",
            context["mode_words"][r.mode],
            quantity(r.return_c, "temperature", system),
            quantity(r.supply_c, "temperature", system),
            _capacity(result, system),
            "–" if r.current_a is None else f"{r.current_a:.1f} A",
            r.by,
            moment(r.at),
        )
        for r, result in context["runnings"]
    ]
