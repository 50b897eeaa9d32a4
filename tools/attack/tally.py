"""What was tried, what failed, what was lost."""

from dataclasses import dataclass, field

SHOWN = 12


@dataclass
class Tally:
    """One kind of attack. A failure is an answer of 500 or more, or a wait that does not end."""

    name: str
    tried: int = 0
    failures: list[str] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    seen: str = ""

    def answered(self, what: str, status: int) -> None:
        self.tried += 1
        if status >= 500:
            self.failures.append(f"{what}: {status}")

    @property
    def sound(self) -> bool:
        return not self.failures and not self.lost

    def __str__(self) -> str:
        first = "".join(f"\n    {words[:300]}" for words in (self.failures + self.lost)[:SHOWN])
        counts = f"{self.tried:7} tried {len(self.failures):4} failed {len(self.lost):4} lost"
        return f"{self.name:34}{counts}  {self.seen}{first}"
