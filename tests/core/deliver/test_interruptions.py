"""What an interruption leaves: the table of docs/interruptions.md, and the tests that hold it."""

from __future__ import annotations

from tests.cli import test_commands, test_going_on
from tests.core.deliver import (
    test_cluster_trust,
    test_delivery,
    test_publish,
    test_segments,
    test_small_disk,
)
from tests.doc_tables import as_table, table_in

NAME = "what is left"
OLD, NEW = "the old pair, or nothing", "the new pair"
NOTHING = "nothing"
ROWS = (
    (
        "while frames are read or encoded, by a kill of all of it",
        *(OLD, "a partial file", "the next delivery of that name removes it"),
        (
            test_publish.test_what_a_process_left_that_is_no_longer_there_is_removed,
            test_segments.test_what_was_stopped_goes_on_where_it_was,
        ),
    ),
    (
        "by *Stop*, Ctrl+C, HUP, TERM, or the window closing",
        *(OLD, NOTHING, "–"),
        (
            test_delivery.test_stopping_leaves_nothing,
            test_delivery.test_a_process_is_stopped_and_cleans_up,
            test_commands.test_ctrl_c_stops_cleanly,
        ),
    ),
    (
        "by *Stop*, while segments come out of the store",
        *(OLD, NOTHING, "–"),
        (test_going_on.test_a_stop_is_heard_while_segments_come_out_of_the_store,),
    ),
    (
        "by *Stop*, and the worker does not hear it",
        *(OLD, NOTHING, "after 20 s it is ended"),
        (test_going_on.test_a_worker_that_hears_no_stop_is_ended,),
    ),
    (
        "the command alone is killed",
        *(OLD, "nothing: the worker notices, stops and cleans up, or ends itself after 20 s", "–"),
        (
            test_commands.test_killed_without_a_word_it_leaves_nothing_under_the_name,
            test_going_on.test_an_orphan_that_hears_nothing_ends_itself,
        ),
    ),
    (
        "the worker alone is killed",
        *(OLD, "nothing: the command cleans up, and makes the other deliveries", "the next run"),
        (
            test_delivery.test_a_process_that_is_killed_is_said_and_leaves_nothing,
            test_going_on.test_a_worker_that_is_killed_ends_one_delivery,
        ),
    ),
    (
        "the disk fills up while it is encoded",
        *(OLD, "a partial file, while it waits for room; after ten minutes nothing"),
        "whoever makes room",
        (
            test_small_disk.test_it_waits_for_room_and_goes_on,
            test_small_disk.test_where_nobody_makes_room_it_ends_in_words,
            test_delivery.test_a_full_disk_leaves_what_was_there,
        ),
    ),
    (
        "while it is published, before the note is written",
        *(OLD, "partial file and seal", "the next delivery of that name removes them"),
        (test_publish.test_at_each_system_call_the_old_pair_or_the_new,),
    ),
    (
        "while it is published, with the note written",
        "the old pair, the new pair, or the new file and the old seal for a moment",
        "partial file and seal",
        "the next delivery of that name finishes it; `check` changes nothing, and says so",
        (
            test_publish.test_at_each_system_call_the_old_pair_or_the_new,
            test_publish.test_an_unfinished_publishing_is_finished_by_the_next_delivery,
        ),
    ),
    (
        "by a power cut",
        *(OLD, "as for a kill: file, seal and note are on the disk before the names change"),
        "as for a kill",
        (test_publish.test_at_each_system_call_the_old_pair_or_the_new,),
    ),
    (
        "two deliveries to one name at the same time",
        *("the pair of the first", NOTHING, "the second is refused"),
        (test_publish.test_a_target_is_delivered_to_by_one_at_a_time,),
    ),
    (
        "a file of that name appears meanwhile",
        *("that file, untouched", NOTHING, "it is refused, unless *overwrite* was said"),
        (
            test_delivery.test_a_file_that_comes_meanwhile_is_not_overwritten,
            test_publish.test_a_name_that_was_taken_meanwhile_keeps_its_file_and_its_seal,
        ),
    ),
    (
        "a frame, a LUT or a sound is replaced while it is encoded",
        *(NEW, NOTHING, "what it touches is made again; after four tries it is refused"),
        (
            test_delivery.test_frames_that_are_replaced_while_they_are_encoded_are_encoded_again,
            test_delivery.test_frames_that_are_replaced_again_and_again_are_not_sealed,
        ),
    ),
    (
        "a frame is replaced while it is checked",
        *(NEW, NOTHING, "the seal names the frame; the card says that frames changed since"),
        (test_delivery.test_a_frame_that_is_replaced_while_it_is_checked_is_said,),
    ),
    (
        "the job's file is gone, damaged, newer or cannot be written",
        *("the new pairs of all deliveries", NOTHING, "the next run takes what was kept"),
        (test_going_on.test_a_job_that_cannot_be_written_to_ends_nothing,),
    ),
    (
        "a cluster goes away",
        *(NEW, NOTHING, "this machine encodes the rest; a note says so"),
        (test_cluster_trust.test_a_cluster_that_goes_away_leaves_the_rest_to_this_machine,),
    ),
)


def table() -> str:
    heads = ("interrupted", "under the name there is", "beside it", "put right by", "tests")
    rows = (
        (*words, ", ".join(f"`{test.__module__.rpartition('.')[2]}`" for test in distinct(tests)))
        for *words, tests in ROWS
    )
    return as_table(heads, rows)


def distinct(tests: tuple[object, ...]) -> list[object]:
    return list({one.__module__: one for one in tests}.values())


def test_the_table_in_the_docs_is_this_one() -> None:
    assert table_in("interruptions.md", NAME) == table()
