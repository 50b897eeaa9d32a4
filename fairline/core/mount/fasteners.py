"""What the hardest-worked fastener carries, as a check against its rating over the margin."""

from fairline.core.calc.fastener_load import FastenerLoadResult
from fairline.core.call import Answer, Check, Limit
from fairline.core.practice import Rules


def fastener_check(
    id: str, label: str, answer: Answer[FastenerLoadResult], rules: Rules, what: str
) -> Check:
    """The answer as a check; ``what`` is one fastener in a word: lag, anchor."""
    margin = rules.limit("anchor_factor")
    allowed = None
    if margin is not None:
        allowed = Limit(
            limit=f"load on one {what}",
            value=answer.result.allowed_kg,
            unit="kg",
            kind="weight",
            authority=margin.authority,
            source=f"its rating over a margin of {margin.value:g}",
        )
    return Check(
        id=id,
        label=label,
        call=answer.call,
        value=answer.result.load_kg,
        unit="kg",
        kind="weight",
        limit=allowed,
    )
