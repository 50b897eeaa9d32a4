"""The ways out of what is in the pipes, step by step: what is done, and what it can do to a person.

Each step is done once its act is recorded on the circuits concerned; it carries that act's moment.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from fairline.core.contents.part import Part

GLOVES = "Refrigerant freezes skin and eyes: gloves and glasses; air the room."


@dataclass(frozen=True)
class Step:
    """One step: what is to be done, which act is its answer, where it is recorded, its caution.

    ``act`` is a kind of act, with the word that it must say after a dot; ``stage`` is where it is
    recorded, ``anchor`` the place on that page.
    """

    words: str
    act: str
    stage: str
    anchor: str = ""
    caution: str = ""


STEPS: Mapping[str, Step] = {
    "shut": Step("Shut both service valves.", "shut", "charge", "at-shut"),
    "take-out": Step(
        "Recover what is in that part by weight, until the gauge stands at nought.",
        "weighed.emptied|pumped-down",
        "charge",
        "at-take-out",
        GLOVES,
    ),
    "recover": Step(
        "Recover what is in it by machine and by weight, until the gauge stands at nought.",
        "weighed.emptied",
        "charge",
        "at-take-out",
        f"Never pump down: a leak draws air into the compressor. {GLOVES}",
    ),
    "join": Step("Then open it.", "joint", "flare"),
    "mend": Step(
        "Make the joint anew, or cap the end.",
        "joint",
        "flare",
        "",
        "No flame before the refrigerant is out and the air is clean.",
    ),
    "bleed": Step(
        "Bleed the nitrogen to nought and read the gauge.", "bled", "evacuate", "at-bled"
    ),
    "read": Step(
        "Put a gauge on this side of the shut valve: it reads nought.",
        "bled",
        "evacuate",
        "at-bled",
    ),
    "break": Step(
        "Pump off; let dry nitrogen in to about nought.", "sweep", "evacuate", "at-events"
    ),
    "dry": Step("Wait until it is dry, or work under a roof by name.", "exposure", "evacuate"),
    "nitrogen": Step(
        "Put nitrogen on it, at the test pressure, for the whole hold.",
        "nitrogen",
        "pressure-test",
        "at-reading",
        "Through a regulator, never over the sheet's test pressure.",
    ),
    "pump": Step("Connect the pump and pull.", "pump", "evacuate", "at-decay"),
    "decay": Step("Shut the valve, pump off, time the decay.", "decay", "evacuate", "at-decay"),
    "weigh": Step("Weigh the charge in.", "weighed", "charge", "at-weighing"),
    "release": Step("Open the valves.", "released", "charge", "at-release"),
}


def before_opening(part: Part) -> str:
    """What has to be done before a joint of a part may be opened, in words; blank where nothing.

    >>> before_opening(Part("nitrogen", gauge_pa=1e6)), before_opening(Part("air"))
    ('Bleed the nitrogen to nought and read the gauge first.', '')
    """
    if part.content in ("refrigerant", "mixed"):
        first = "Shut both service valves, then recover" if part.valves else "Recover"
        tight = part.content == "refrigerant" and not part.leaks
        may = ", or pump down what is tight" if tight and part.valves else ""
        return f"{first} what is in that part by machine and by weight{may}, first."
    if part.pressed:
        return "Bleed the nitrogen to nought and read the gauge first."
    return ""
