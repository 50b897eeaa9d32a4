"""Text files as they come and go: their charset, what parts their columns, cells made harmless."""

from fairline.core.errors import FairLineError

FORMULA = ("=", "+", "-", "@", "\t", "\r")  # what a spreadsheet takes for one
MARKS = (b"\xff\xfe", b"\xfe\xff")  # of UTF-16


class TextError(FairLineError, ValueError):
    """Why a file is no text; ``line`` where it is known."""

    def __init__(self, what: str, line: int | None = None) -> None:
        super().__init__(what)
        self.what, self.line = what, line


def decode(content: bytes) -> str:
    """Text of a file in UTF-8 or UTF-16, its byte-order mark taken off. Raises TextError."""
    coding = "utf-16" if content.startswith(MARKS) else "utf-8-sig"
    try:
        text = content.decode(coding)
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise TextError("this is not text in UTF-8", line) from None
    if "\x00" in text:
        raise TextError("this is not a text file")
    return text


def delimiter_of(header: str) -> str | None:
    """What parts the columns of a header: comma, semicolon, tab or bar; None for one column."""
    found = max(",;\t|", key=header.count)
    return found if found in header else None


def without_formula(cell: str) -> str:
    """A text cell that no spreadsheet takes for a formula."""
    return "'" + cell if cell[:1] in FORMULA else cell


def with_formula(cell: str) -> str:
    """A cell that was defused, without what made it harmless."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in FORMULA else cell
