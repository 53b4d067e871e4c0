"""Every change to a job: functions from a job to a new one.

None of them touches a file. An Edit is such a function with the name that
undo shows.
"""

from __future__ import annotations

from waxseal.core.job.edits.deliveries import (
    add_delivery,
    change_delivery,
    record_outcome,
    remove_delivery,
)
from waxseal.core.job.edits.parts import Edit
from waxseal.core.job.edits.readings import (
    change_reading,
    confirm_rates,
    count_alike,
    read_alike,
    set_expected,
    set_habit,
    set_part,
    set_range,
    set_rate,
)
from waxseal.core.job.edits.reel import (
    lay_sound,
    lift_sound,
    mark,
    move_shot,
    put_on_reel,
    remove_shot,
    set_framing,
    set_ground,
    set_reel_rate,
    set_reel_size,
    trim_head,
    trim_tail,
)
from waxseal.core.job.edits.sources import (
    add_sources,
    leading_pass,
    refresh_sources,
    relink,
    remove_source,
    take_in,
)

__all__ = [
    "Edit",
    "add_delivery",
    "add_sources",
    "change_delivery",
    "change_reading",
    "confirm_rates",
    "count_alike",
    "lay_sound",
    "leading_pass",
    "lift_sound",
    "mark",
    "move_shot",
    "put_on_reel",
    "read_alike",
    "record_outcome",
    "refresh_sources",
    "relink",
    "remove_delivery",
    "remove_shot",
    "remove_source",
    "set_expected",
    "set_framing",
    "set_ground",
    "set_habit",
    "set_part",
    "set_range",
    "set_rate",
    "set_reel_rate",
    "set_reel_size",
    "take_in",
    "trim_head",
    "trim_tail",
]
