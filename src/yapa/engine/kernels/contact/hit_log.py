"""The part of the contact log that stands for a body: where it is, and its velocities before and after."""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import hit_state, state


@kernel
def log_body(row, at, b, before, after, clog):
    """Write body ``b`` into a row of the contact log, from column ``at`` on; its states before and after the impact."""
    for c in range(3):
        clog[row, at + hit_state.POSITION + c] = after[b, state.POSITION + c]
        clog[row, at + hit_state.ROTATION + c] = after[b, state.ROTATION + c]
        clog[row, at + hit_state.VELOCITY_BEFORE + c] = before[b, state.VELOCITY + c]
        clog[row, at + hit_state.VELOCITY_AFTER + c] = after[b, state.VELOCITY + c]
        clog[row, at + hit_state.OMEGA_BEFORE + c] = before[b, state.OMEGA + c]
        clog[row, at + hit_state.OMEGA_AFTER + c] = after[b, state.OMEGA + c]
