"""Reading earlier forms of jobs: version 1, one outdoor unit with one head; version 2, one run."""

from typing import Any

Document = dict[str, Any]
ZONE = "A"
TORQUES = ("liquid", "gas")


def upgraded(job: Document) -> Document:
    """A job of an earlier format version as one of now; one of now as it is.

    A route of version 2, with the legs of its only run, is read by ``RouteEntry`` itself.
    """
    version = job.get("format_version", 3 if "equipment" in job else 1)
    if version == 2:
        return job | {"format_version": 3}
    if version != 1 or "equipment" in job:
        return job
    found = {k: v for k, v in job.items() if k != "sheet"} | {"format_version": 3}
    sheet = job.get("sheet")
    if sheet:
        outdoor, head = sheets(sheet)
        found["equipment"] = {
            "outdoor": {"sheet": outdoor},
            "heads": [{"zone": ZONE, "sheet": head}],
        }
    if sheet or isinstance(job.get("survey"), dict):
        found["survey"] = survey(job.get("survey") or {}, sheet)
    if isinstance(job.get("mount"), dict):
        found["mount"] = mount(job["mount"], (sheet or {}).get("head", {}))
    return found


def sheets(sheet: Document) -> tuple[Document, Document]:
    """The sheet of an outdoor unit and its head as a sheet each."""
    outdoor, head = dict(sheet.get("outdoor", {})), dict(sheet.get("head", {}))
    torques = []
    for line in TORQUES:
        od = outdoor.get(f"{line}_od_m")
        low = outdoor.pop(f"{line}_torque_low_nm", None)
        high = outdoor.pop(f"{line}_torque_high_nm", None)
        if od and low and high:
            torques.append({"od_m": od, "low_nm": low, "high_nm": high})
    liquid, gas = (outdoor.pop(f"{line}_od_m", None) for line in TORQUES)
    rate = outdoor.pop("rate_kg_per_m", None)
    if liquid and rate:
        outdoor["rates"] = [{"liquid_od_m": liquid, "kg_per_m": rate}]
    if liquid or gas:
        outdoor["ports"] = [{"liquid_od_m": liquid, "gas_od_m": gas}]
    if torques:
        outdoor["torques"] = torques
    head.pop("kind", None)
    if airflow := head.pop("airflow_m3_s", None):
        head["airflows"] = [{"speed": "high", "m3_s": airflow}]
    common = {"maker": sheet.get("maker", "")}
    both = {"parts": sheet.get("parts", ""), "notes": sheet.get("notes", "")}
    return (
        {"kind": "outdoor", **common, **outdoor, **both},
        {"kind": "head", **common, **head, "refrigerant": outdoor.get("refrigerant")},
    )


def survey(entry: Document, sheet: Document | None) -> Document:
    """One head is wanted, in the room that was named; the boxes are those of two units."""
    found = dict(entry)
    rooms = found.get("rooms") or [{}]
    room = found.pop("head_room", "") or (rooms[0] or {}).get("name", "")
    maker = (sheet or {}).get("maker", "")
    planned = {
        part: f"{maker} {(sheet or {}).get(part, {}).get('model', '')}".strip()
        for part in ("outdoor", "head")
    }
    if sheet or room:
        found["heads"] = [{"zone": ZONE, "room": room, "sheet": planned["head"]}]
    if sheet:
        found["outdoor"] = planned["outdoor"]
    damage, codes = found.pop("damage", None), found.pop("codes_belong", None)
    parts = found.pop("parts_seen", None)
    outdoor = {
        "damage": damage,
        "codes_belong": codes,
        "parts_seen": parts,
        "serial": found.pop("outdoor_serial", None),
    }
    head = {
        "damage": damage,
        "codes_belong": codes,
        "serial": found.pop("head_serial", None),
        "hiss": found.pop("hiss", None),
        "no_hiss_leak_test": found.pop("no_hiss_leak_test", None),
    }
    boxes = {
        name: {k: v for k, v in box.items() if v}
        for name, box in (("outdoor", outdoor), (ZONE, head))
    }
    if any(boxes.values()):
        found["boxes"] = {name: box for name, box in boxes.items() if box}
    return found


def mount(entry: Document, head: Document) -> Document:
    """What was measured beside the head, as a wall with the head on it."""
    found: Document = {}
    wall: Document = {}
    left, right, above, height = (
        entry.get(f"head_{name}_m") for name in ("left", "right", "ceiling", "height")
    )
    width = head.get("width_m")
    if left is not None and width:
        wall["x_m"] = left + width / 2
        if right is not None:
            wall["width_m"] = left + width + right
    if height is not None:
        wall["y_m"] = height
        if above is not None:
            wall["ceiling_m"] = height + head.get("height_m", 0.3) + above
    for old, new in (
        ("plate", "plate"),
        ("hole_m", "hole_m"),
        ("hole_fall_m", "hole_fall_m"),
        ("wall_m", "thickness_m"),
        ("drain_low", "drain_low"),
        ("hole_clear", "looked"),
        ("notes", "notes"),
    ):
        if entry.get(old) is not None:
            wall[new] = entry[old]
    if wall:
        found["walls"] = {ZONE: wall}
    yard: Document = {
        new: entry[old]
        for old, new in (
            ("support", "support"),
            ("outdoor_level", "level"),
            ("outdoor_anchored", "anchored"),
            ("outdoor_behind_m", "y_m"),
            ("outdoor_left_m", "x_m"),
        )
        if entry.get(old) is not None
    }
    if yard:
        found["outdoor"] = yard
    return found
