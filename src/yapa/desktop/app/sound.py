"""A click at each contact, through the sound device, where there is one (extra ``sound``: miniaudio)."""

from __future__ import annotations

import threading
from collections.abc import Generator, Sequence
from functools import cache
from typing import Any

import numpy as np

from yapa.motion import Array

RATE = 44_100
"""samples a second"""
LENGTH = 0.06
"""s of a click"""
PITCHES = (740.0, 1_870.0)
"""Hz of the two tones a click is made of"""
FADE = 90.0
"""1/s: how fast it dies away"""
LOUDEST = 0.5
"""of full scale: the hardest contact alone"""
BUFFER = 40
"""ms between what is asked for and what is heard"""


def click_wave() -> Array:
    """One click, (n,), at most 1."""
    t = np.arange(int(LENGTH * RATE)) / RATE
    wave = np.exp(-FADE * t) * (np.sin(2 * np.pi * PITCHES[0] * t) + 0.5 * np.sin(2 * np.pi * PITCHES[1] * t))
    out: Array = wave / np.abs(wave).max()
    return out


class Speaker:
    """Mixes clicks and hands them to the sound device.

    Parameters
    ----------
    backends : of miniaudio; None: whatever the system has
    """

    def __init__(self, backends: Sequence[Any] | None = None) -> None:
        self._backends = None if backends is None else list(backends)
        self._device: Any = None
        self._wave = click_wave()
        self._waiting = np.zeros(0)
        self._lock = threading.Lock()

    @property
    def on(self) -> bool:
        """Whether the device is open."""
        return self._device is not None

    def open(self) -> None:
        """Take the sound device.

        Raises
        ------
        OSError
            If it cannot be had.
        """
        import miniaudio  # type: ignore[import-untyped]

        try:
            self._device = miniaudio.PlaybackDevice(output_format=miniaudio.SampleFormat.FLOAT32, nchannels=1, sample_rate=RATE,
                                                    buffersize_msec=BUFFER, backends=self._backends, app_name="Yapa")
            stream = self._stream()
            next(stream)
            self._device.start(stream)
        except miniaudio.MiniaudioError as error:
            self._device = None
            raise OSError(f"sound: the device cannot be opened: {error}") from None

    def close(self) -> None:
        """Give the device back."""
        if self._device is not None:
            self._device.close()
            self._device = None

    def click(self, loudness: float) -> None:
        """Add a click to what is heard next.

        Parameters
        ----------
        loudness : 0 to 1
        """
        with self._lock:
            mixed = np.zeros(max(len(self._waiting), len(self._wave)))
            mixed[: len(self._waiting)] += self._waiting
            mixed[: len(self._wave)] += LOUDEST * loudness * self._wave
            self._waiting = mixed

    def take(self, frames: int) -> Array:
        """The next samples, (frames,), within full scale; what is taken is heard once.

        Parameters
        ----------
        frames : how many
        """
        with self._lock:
            out = np.zeros(frames)
            found = self._waiting[:frames]
            out[: len(found)] = np.tanh(found)
            self._waiting = self._waiting[frames:]
        return out

    def _stream(self) -> Generator[Any, int, None]:
        frames = yield b""
        while True:
            frames = yield self.take(frames).astype(np.float32).tobytes()


@cache
def sound_works() -> bool:
    """Whether the extra is installed and a real sound device is there."""
    try:
        import miniaudio

        found = miniaudio.Devices()
        return found.backend != "Null" and any("Discard all samples" not in device["name"] for device in found.get_playbacks())
    except Exception:  # not installed, or its library does not load, or it finds no way to any device: there is no sound
        return False
