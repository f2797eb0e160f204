"""Short, real sounds from the standard library alone: a decaying tone whose pitch and colour follow from a number."""

from __future__ import annotations

import array
import io
import math
import wave

RATE = 22_050
_STEPS = 40  # the tone decays in so many steps


def tone(number: int) -> bytes:
    """A mono 16-bit WAV file of about a second; the same ``number`` always gives the same bytes."""
    frames = frames_of(number)
    period, overtone = 40 + 5 * (number % 29), 2 + number % 3
    cycle = [
        math.sin(2 * math.pi * n / period) + 0.4 * math.sin(2 * math.pi * overtone * n / period) for n in range(period)
    ]
    samples = array.array("h")
    for step in range(_STEPS):
        level = 11_000 * (1 - step / _STEPS)
        loud = array.array("h", (int(level * value) for value in cycle))
        samples.extend(loud * (frames // (_STEPS * period) + 1))
    content = io.BytesIO()
    with wave.open(content, "wb") as target:
        target.setnchannels(1)
        target.setsampwidth(2)
        target.setframerate(RATE)
        target.writeframes(samples[:frames].tobytes())
    return content.getvalue()


def frames_of(number: int) -> int:
    """How many frames the tone of this ``number`` has."""
    return RATE * (8 + number % 7) // 10
