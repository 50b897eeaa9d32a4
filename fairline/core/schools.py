"""Where practitioners disagree: every topic with its schools, and the one we start with.

All are common practice without a published source unless the text names one.
"""

from fairline.core.call import Frozen
from fairline.core.limit_list import HOUR, MICRON, MINUTE, PSI


class School(Frozen):
    """One way of doing a thing: what it does, when it is right, what it costs."""

    name: str
    label: str
    does: str
    right_when: str
    costs: str
    values: dict[str, float] = {}


class Topic(Frozen):
    """A question practitioners answer differently; ``default`` is ours, with its reason."""

    name: str
    label: str
    stage: str
    default: str
    reason: str
    schools: tuple[School, ...]

    def school(self, name: str) -> School:
        return next(s for s in self.schools if s.name == name)


def _s(name: str, label: str, does: str, when: str, costs: str, **values: float) -> School:
    return School(name=name, label=label, does=does, right_when=when, costs=costs, values=values)


def _t(name: str, label: str, stage: str, reason: str, *schools: School) -> Topic:
    """A topic; its first school is the default."""
    return Topic(
        name=name, label=label, stage=stage, default=schools[0].name, reason=reason,
        schools=schools,
    )  # fmt: skip


def _test(psig: float, hold_s: float) -> dict[str, float]:
    return {"test_pressure": psig * PSI, "test_hold": hold_s}


def _decay(pull: float, most: float, hold_s: float) -> dict[str, float]:
    return {"pull_to": pull * MICRON, "decay_max": most * MICRON, "decay_hold": hold_s}


_LIST = (
    _t("pressure", "Pressure test", "pressure-test",
       "An hour shows a leak that ten minutes hide, and fits into the wiring.",
       _s("hour", "300 psig, one hour", "Holds nitrogen at 300 psig for sixty minutes.",
          "Most single zones with every joint in reach.", "An hour, filled by the wiring.",
          **_test(300, HOUR)),
       _s("quick", "150 psig, ten minutes", "A short look at a low pressure.",
          "A coil, or one joint made again.", "Small leaks stay unseen.",
          **_test(150, 10 * MINUTE)),
       _s("soak", "150 psig while wiring", "Holds while the wiring is done, bubbles on every "
          "joint.", "Joints in reach and a helper to watch them.",
          "A hand on every joint; less pressure than the system will see.", **_test(150, HOUR)),
       _s("overnight", "500 psig, 24 hours", "Stands a day and a night near working pressure.",
          "Branch boxes, trunks, long lines, joints that will be closed in.",
          "A night, and a pipe temperature at both ends.", **_test(500, 24 * HOUR))),
    _t("decay", "Vacuum and decay", "evacuate",
       "A lower start leaves room to see a rise before the limit.",
       _s("deep", "to 300 microns, 10 min, at most 500", "Pulls deeper and watches longer.",
          "Any system; the better the rig, the shorter.", "A good pump, fresh oil, wide hose.",
          **_decay(300, 500, 10 * MINUTE)),
       _s("short", "well under 500 microns, 5 min, at most 500",
          "Pulls until 500 is well passed, to 350, then looks briefly.",
          "A dry, short line in fair weather.", "Slow water is missed.",
          **_decay(350, 500, 5 * MINUTE)),
       _s("half-hour", "well under 500 microns, 30 min, at most 500",
          "Pulls until 500 is well passed, to 350, and watches long enough for water.",
          "Lines that lay open, humid weather.", "Half an hour a system.",
          **_decay(350, 500, 30 * MINUTE)),
       _s("run-on", "30 min at 500 microns, 10 min, at most 1000",
          "Lets the pump run on; over 1000 it is pulled again, then it is a leak.",
          "Large systems that out-gas for long.", "Pump time; a higher limit.",
          **_decay(500, 1000, 10 * MINUTE))),
    _t("gauge", "Needle or micron gauge", "evacuate",
       "A needle cannot tell 500 microns from 12 000.",
       _s("micron", "micron gauge", "Reads the vacuum itself, on the far side of the system.",
          "Always.", "A gauge to look after."),
       _s("needle", "needle at −30 inHg", "Waits for the needle to stand still.",
          "Only where the equipment's sheet prescribes it.", "Dryness is not proven.")),
    _t("factory_flares", "Factory flares", "flare",
       "A flare of one's own is known; a shipped one has travelled.",
       _s("recut", "cut off and made again", "Every joint is of one's own making.",
          "Line sets that were shipped coiled or dropped.", "A few minutes and an inch of tube."),
       _s("inspect", "inspected and used", "Looks for split, step, scratch and size.",
          "Capped ends that arrived whole.", "A fault the eye misses.")),
    _t("sealant", "Sealant on flares", "flare", "Torque tables are for dry threads.",
       _s("none", "dry flare", "Metal on metal.", "A clean flare and a torque wrench.",
          "Nothing forgives a scratch."),
       _s("seat", "thin film on the seat and the flare's back",
          "Lets the nut turn without turning the tube.", "Large tubes, tight places.",
          "Never on the threads: they over-torque."),
       _s("paste", "thread paste all round", "Seals by paste.", "Listed because it is done.",
          "Greased threads over-torque: readings no longer hold.")),
    _t("traps", "Oil traps in the gas line", "route",
       "Variable-speed equipment brings its oil back by itself unless its sheet says otherwise.",
       _s("none", "no traps, no dips", "Runs slope back without a low point.",
          "Variable-speed equipment with a silent sheet.", "Trust in the oil return."),
       _s("foot-and-rise", "at the foot and every 16 ft of rise",
          "Collects oil and lifts it in steps; an inverted trap at the valves.",
          "Fixed-speed equipment well below its heads.", "Bends, joints, pressure drop.")),
    _t("short_line", "Line shorter than covered", "charge",
       "Variable-speed equipment takes up a small surplus.",
       _s("leave", "leave the charge as it is", "Keeps the factory charge whole.",
          "Variable-speed equipment, a small difference.", "A little too much refrigerant."),
       _s("recover", "recover the difference", "Takes the surplus out by weight.",
          "Equipment with a critical charge.", "A recovery machine and a licence.")),
    _t("charge_into", "Where the charge goes in", "charge",
       "By weight into the vacuum nothing has to run yet, and nothing slugs.",
       _s("vacuum", "into the vacuum, valves shut", "Weighs liquid in before the valves open.",
          "Whenever the line takes it all.", "The cylinder may stall in the cold."),
       _s("running", "metered while running", "Throttles liquid in at the suction.",
          "A large added charge.", "Slugging, if hurried.")),
    _t("valve_order", "Order of the valves", "charge",
       "Anything loose is drawn back through the filter.",
       _s("gas_first", "gas valve first", "Opens the gas side, then the liquid side.",
          "Most systems.", "The hose leaves under vacuum: be quick."),
       _s("liquid_cracked", "liquid valve cracked first",
          "Lifts the vacuum before the hose comes off.", "A core tool that leaks a little.",
          "A puff stays in the hose.")),
    _t("support", "What the outdoor unit stands on", "mount",
       "A pad carries no sound into the wall.",
       _s("pad", "pad", "Stands free on the ground on rubber.",
          "First choice beside bedrooms, where no snow or flood reaches it.",
          "A slab to level; a composite pad can tilt."),
       _s("bracket", "wall bracket", "Hangs on a rail that reaches two studs.",
          "Snow, weeds, no ground to stand on.", "Some vibration goes into the wall."),
       _s("stand", "stand", "Lifts the unit on legs above snow or flood.",
          "Snow country, soft or wet ground.", "Must be anchored against wind.")),
    _t("cable", "Control cable", "wire", "Local code decides first; apart is never wrong.",
       _s("apart", "apart from the line set", "Runs in its own cover or conduit.",
          "Where its voltage is above class 2.", "A second path."),
       _s("with", "strapped to the line set", "Runs inside the same cover.",
          "Outdoor-rated cable where local code allows it.", "Harder to replace.")),
    _t("surplus", "Surplus line", "route", "A shorter line is a better line.",
       _s("cut", "cut and flared again", "The line is as long as its way.", "Unless pre-charged.",
          "Two new flares."),
       _s("coil", "coiled flat behind the unit", "Keeps the surplus in a neat coil.",
          "Pre-charged kits; units that may move later.", "Charge and length for nothing.")),
    _t("joins", "Joins in a run", "route", "What is not there cannot leak.",
       _s("single", "one piece", "No join between the units.", "Whenever stock allows.",
          "A longer roll, more waste."),
       _s("brazed", "brazed join", "Swaged and brazed under nitrogen, in reach.",
          "Runs longer than the stock.", "Hot work and a fire watch."),
       _s("union", "flared union", "Two flares and a fitting.",
          "Never hidden in a wall: refused there.", "Two more joints to leak.")),
    _t("isolation", "Isolation valves on ports", "route",
       "A valve is two more joints: it earns them where a head comes later.",
       _s("later", "only where a head comes later", "One port can be opened without the rest.",
          "A head is planned.", "Nothing to shut for service elsewhere."),
       _s("always", "on every port", "Every zone can be shut by itself.", "Service contracts.",
          "Two more joints a zone, and money.")),
    _t("connect_first", "Which end is connected first", "flare",
       "The head's connection is the tight one: it is made while the line can still move.",
       _s("indoors", "indoors", "Head first, slack taken up outdoors.", "Most line sets.",
          "The outdoor end carries the error."),
       _s("outdoors", "outdoors", "Outdoor unit first, on its fixed valves.",
          "Runs that enter from above.", "Little slack at the head.")),
    _t("plate_pitch", "Mounting plate", "mount", "Most heads' pans are made to hang level.",
       _s("level", "dead level", "The pan's own fall does the work.", "Unless the sheet says "
          "otherwise.", "A wall out of true shows."),
       _s("slight", "slight pitch to the drain", "Helps a shallow pan.",
          "Where the sheet allows it.", "Seen from below; a tilt too far spills.")),
    _t("head_height", "Head high or low", "mount", "Higher throws further and meets less.",
       _s("high", "high on the wall", "Throws over furniture.", "Rooms with a free high wall.",
          "A ladder to wash the filters."),
       _s("low", "low, or a floor console", "Warms the floor first.",
          "Knee walls, heating first.", "Nothing may stand in front.")),
)  # fmt: skip

TOPICS: dict[str, Topic] = {t.name: t for t in _LIST}
TOPICS_ON: dict[str, tuple[str, ...]] = {  # the topics whose schools say something of a limit
    name: tuple(t.name for t in _LIST if any(name in s.values for s in t.schools))
    for name in {n for t in _LIST for s in t.schools for n in s.values}
}
