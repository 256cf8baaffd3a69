"""Millimetres are the only length inside; these convert at the edges."""

MM_PER_INCH = 25.4
POINTS_PER_MM = 72 / MM_PER_INCH
HPGL_UNITS_PER_MM = 40


def ppi(pixels: float, mm: float) -> float:
    """Pixels per inch of `pixels` spread over `mm` millimetres."""
    return pixels * MM_PER_INCH / mm
