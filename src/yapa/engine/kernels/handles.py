"""What goes through a run together: two handles in place of the arguments that always stand side by side.

The handle of a run is the table of addresses that it was called with; what a kernel needs of it is a view of it. The handle of an
island is its bodies and its pairs.
"""

from collections import namedtuple

from numba import types

from yapa.engine.kernels.jit import WHOLES1
from yapa.engine.kernels.layout import call_table, run_table
from yapa.engine.kernels.layout.views import view_at

RUN = WHOLES1
Island = namedtuple("Island", "BL PL")
"""The numbers of its bodies, and of its pairs."""
ISLAND = types.NamedUniTuple(WHOLES1, 2, Island)
F, W = types.float64, types.int64

states_of = view_at(call_table.STATES, F)
"""States of all bodies."""
bodies_of = view_at(call_table.BODIES, F)
"""What all bodies are."""
scene_of = view_at(call_table.SCENE, W, 1)
"""The table of the scene."""
workspace_of = view_at(call_table.WORKSPACE, W, 1)
"""The table of the workspace."""
points_of = view_at(call_table.SOFT, W, 1)
"""The table of contact points."""
times_of = view_at(call_table.TIMES, F, 1)
"""Sample times."""
samples_of = view_at(call_table.OUT, F, 3)
"""Samples of all bodies."""
contact_log_of = view_at(call_table.CONTACT_LOG, F)
"""The contact log."""
phase_log_of = view_at(call_table.PHASE_LOG, F)
"""The phase log."""
phases_of = view_at(run_table.PHASES, W, 2, call_table.WHOLE_RUN)
"""Open phases of the pairs."""
calm_of = view_at(run_table.CALM, W, 2, call_table.WHOLE_RUN)
"""What is remembered of bodies."""
config_of = view_at(call_table.CONFIG, F, 1)
"""Settings, and what is noted of soft contacts."""
status_of = view_at(call_table.STATUS, W, 1)
"""The report."""
cancel_of = view_at(call_table.CANCEL, W, 1)
"""The flag that stops the run."""
