"""Checks of a case and its motion, a file each; importing this package registers them."""

from yapa.findings.after import contacts_under_cutoff as contacts_under_cutoff
from yapa.findings.after import energy_grew as energy_grew
from yapa.findings.after import left_the_scene as left_the_scene
from yapa.findings.after import never_rests as never_rests
from yapa.findings.after import no_effect as no_effect
from yapa.findings.after import other_contacts as other_contacts
from yapa.findings.after import remarks as remarks
from yapa.findings.after import rolls_for_ever as rolls_for_ever
from yapa.findings.after import rolls_on_corners as rolls_on_corners
from yapa.findings.after import same_as_before as same_as_before
from yapa.findings.after import target_missed as target_missed
from yapa.findings.after import too_far_apart as too_far_apart
from yapa.findings.after import went_the_other_way as went_the_other_way
