"""Checks of a case before a run, a file each; importing this package registers them."""

from yapa.findings.before import clearance_too_large as clearance_too_large
from yapa.findings.before import face_turned_away as face_turned_away
from yapa.findings.before import hollow_filled as hollow_filled
from yapa.findings.before import launch_away as launch_away
from yapa.findings.before import launch_ignored as launch_ignored
from yapa.findings.before import launch_too_late as launch_too_late
from yapa.findings.before import mass_ratio as mass_ratio
from yapa.findings.before import no_force as no_force
from yapa.findings.before import no_gravity as no_gravity
from yapa.findings.before import nothing_moves as nothing_moves
from yapa.findings.before import nothing_to_meet as nothing_to_meet
from yapa.findings.before import off_the_plane as off_the_plane
from yapa.findings.before import passes_through as passes_through
from yapa.findings.before import path_too_fast as path_too_fast
from yapa.findings.before import per_step_number as per_step_number
from yapa.findings.before import restitution_lifted as restitution_lifted
from yapa.findings.before import restitution_range as restitution_range
from yapa.findings.before import start_beside_path as start_beside_path
from yapa.findings.before import start_gaps as start_gaps
from yapa.findings.before import step_too_long as step_too_long
from yapa.findings.before import surface_unused as surface_unused
from yapa.findings.before import turns_the_short_way as turns_the_short_way
from yapa.findings.before import under_cutoff as under_cutoff
from yapa.findings.before import unit_looks_wrong as unit_looks_wrong
from yapa.findings.before import value_cancelled as value_cancelled
from yapa.findings.before import weightless as weightless
