"""Pictures as a phone sends them, made for tests."""

from io import BytesIO

from PIL import Image


def jpeg(colour: str = "grey", size: tuple[int, int] = (60, 40)) -> bytes:
    out = BytesIO()
    Image.new("RGB", size, colour).save(out, "JPEG")
    return out.getvalue()
