"""Plane geometry that the drawing and the plates share. Points are complex numbers, x + iy, in mm."""

from collections.abc import Iterable


def hull_of(points: Iterable[complex]) -> list[complex]:
    """The corners of what stretches over all points.

    Parameters
    ----------
    points : iterable of complex
        x + iy, mm.

    Returns
    -------
    list of complex
        Counter-clockwise from the leftmost; two points stay two.

    Source: the monotone chain; Andrew, Information Processing Letters 9 (1979), 216–219.

    >>> hull_of([0j, 2 + 0j, 2 + 2j, 2j, 1 + 1j])
    [0j, (2+0j), (2+2j), 2j]
    """
    rows = sorted(set(points), key=lambda z: (z.real, z.imag))

    def half(rows: list[complex]) -> list[complex]:
        out: list[complex] = []
        for p in rows:
            while len(out) > 1 and ((out[-1] - out[-2]).conjugate() * (p - out[-2])).imag <= 1e-9:
                out.pop()
            out.append(p)
        return out[:-1]

    return half(rows) + half(rows[::-1])
