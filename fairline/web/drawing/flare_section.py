"""A flare seen from its end, to scale: the tube, and the window its outer edge must lie in."""

from markupsafe import Markup

from fairline.web.drawing.svg import drawing, tag, text

PER_MM = 6.0


def flare_section(od_mm: float, window_mm: tuple[float, float] | None, label: str) -> Markup | None:
    """Tube and flare as circles, six times as large; None where no window is known."""
    if window_mm is None:
        return None
    low, high = window_mm
    half = high / 2 * PER_MM + 14
    middle = (low + high) / 4 * PER_MM
    words = f"{label}: tube {od_mm:g} mm, flare {low:.1f} to {high:.1f} mm across"
    return drawing(
        2 * half + 190,
        2 * half,
        words,
        "flare-section",
        tag(
            "circle",
            cx=half,
            cy=half,
            r=middle,
            class_="flare-window",
            stroke_width=max((high - low) / 2 * PER_MM, 3.0),
        ),
        tag("circle", cx=half, cy=half, r=od_mm / 2 * PER_MM, class_="flare-tube"),
        tag("path", d=f"M{half:.1f} {half:.1f}H{half + middle + 16:.1f}", class_="measure"),
        text(half + middle + 22, half - 4, f"{low:.1f} to {high:.1f} mm", "flare-words"),
        text(half + middle + 22, half + 16, "across the flare", "tick-text"),
    )
