"""What goes through a run together: two handles in place of the arguments that always stand side by side.

The compiler takes a handle apart into its arrays, so it costs nothing.
"""

from collections import namedtuple

from numba import types

from yapa.engine.kernels.jit import REALS1, REALS2, REALS3, WHOLES1, WHOLES2

Run = namedtuple("Run", "S P scene ws cw times out clog plog PS CROWD cfg status cancel")
"""States, bodies, the tables of scene, workspace and contact points, sample times and samples, contact log and phase log, open
phases, what is remembered of bodies, settings, report, and the flag that stops the run."""
Island = namedtuple("Island", "BL PL")
"""The bodies and the pairs of an island."""
RUN = types.NamedTuple((REALS2, REALS2, WHOLES1, WHOLES1, WHOLES1, REALS1, REALS3, REALS2, REALS2, WHOLES2, WHOLES2, REALS1,
                        WHOLES1, WHOLES1), Run)
ISLAND = types.NamedUniTuple(WHOLES1, 2, Island)
