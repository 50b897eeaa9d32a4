"""Equipment sheets: what the makers say. One model a kind, told apart by ``kind``."""

from typing import Annotated

from pydantic import Field, TypeAdapter

from fairline.core.sheet.branch import BranchBox, Kit, Tee
from fairline.core.sheet.head import Head
from fairline.core.sheet.outdoor import Outdoor
from fairline.core.sheet.part import Refrigerant, Sheet

AnySheet = Annotated[Outdoor | Head | BranchBox | Tee | Kit, Field(discriminator="kind")]
ANY_SHEET: TypeAdapter[Outdoor | Head | BranchBox | Tee | Kit] = TypeAdapter(AnySheet)

KINDS: dict[str, type[Sheet]] = {
    "outdoor": Outdoor,
    "head": Head,
    "branch-box": BranchBox,
    "tee": Tee,
    "kit": Kit,
}
KIND_WORDS = {
    "outdoor": "Outdoor unit",
    "head": "Head",
    "branch-box": "Branch box",
    "tee": "Tee",
    "kit": "Pre-charged kit",
}

__all__ = [
    "ANY_SHEET",
    "KINDS",
    "KIND_WORDS",
    "AnySheet",
    "BranchBox",
    "Head",
    "Kit",
    "Outdoor",
    "Refrigerant",
    "Sheet",
    "Tee",
]
