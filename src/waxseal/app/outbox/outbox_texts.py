"""The sentences of the outbox, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- card --------------------------------------------------------------------------------------

NOTHING_ON_THE_REEL_YET = "nothing on the reel yet"
DRAFT_UP_TO_ABOUT = "draft · up to about {0}"
THE_REEL_HAS_CHANGED_SINCE = "The reel has changed since."
ITS_SETTINGS_HAVE_CHANGED_SINCE = "Its settings have changed since."
FRAMES_HAVE_CHANGED_SINCE = "Frames or sounds have changed since."
STOPPED_NOTHING_WAS_LEFT_BEHIND = "stopped · what was encoded is kept, and goes on from there"
SRGB_KEEPS_THE_CODES = "sRGB keeps the codes of display-encoded frames; BT.709 is for BT.1886"
A_LUT_THAT_IS_APPLIED = "A LUT that is applied at the very end"
HIDES_STEPS_IN_SOFT_GRADIENTS = "Hides steps in soft gradients"
WORKS_THE_VIEW_OUT = "Works the view out for each pixel, not through a table; slower"
LUT_OF_A_DELIVERY = "LUT of a delivery"

# ---- docket ------------------------------------------------------------------------------------

LET_THE_FRAME_BEFORE = "let the frame before stand in"
FILLED_WITH_THE_GROUND = "filled with the ground"
FROM_ONE_KEY_FRAME = "Seconds from one key frame to the next, at the most"
THE_MASTERING_DISPLAY = (
    "The mastering display: on which the colours were judged. Its primaries, and its peak and "
    "black in cd/m². Empty: the file says none."
)
TIMECODE_OF_THE_FIRST_FRAME = "Of the file's first frame, as 01:00:00:00"
FLASHES_THAT_MAY_HARM = (
    "More than three in a second, or for five seconds, over a quarter of the picture (BT.1702)"
)
A_DELIVERY_FOR_EACH_SHOT = "In place of this delivery, one for each shot, named after it"
NAME_OF_A_SPEC = "name of a spec"
IS_IN_THE_SPEC_BOOK = "{0} is in the spec book."

# ---- bookmenu ----------------------------------------------------------------------------------

WITHOUT_A_SPEC = "without a spec"
THE_SPEC_BOOK = "The spec book…"

# ---- specbook ----------------------------------------------------------------------------------

COMES_WITH_WAX_SEAL = "It comes with Wax Seal. A copy is yours to change."
A_FILE_OF_YOURS = "Yours, in {0}"
WHAT_A_DESTINATION_TAKES = "What a destination takes. An empty field leaves it open."
REMOVE_IT = "Remove {0} from the book? Deliveries that were made to it need another spec then."

# ---- lane --------------------------------------------------------------------------------------

YOUR_DELIVERIES_APPEAR_HERE = (
    "Your deliveries appear here. The first one is added with the first frames. Each is a file, "
    "or a folder of frames, made from the whole reel; when it is checked it gets a seal."
)

THE_LAST_FILE_TOOK = "the last file took {0}, with its sound"
IS_A_GUESS = "{0} frames a second is only a guess."
CONFIRM_THE_RATE_FIRST = "The rate is a guess: confirm it above the button, or type the right one."

# ---- proving -----------------------------------------------------------------------------------

A_FEW_SEGMENTS_ARE_ENCODED = "A few segments are encoded: they are kept for the delivery."
HOW_LARGE_AND_HOW_LONG = "How large it becomes and how long it takes, from a few segments"
IS_COMPARED_WITH_THE_REEL = "{0} is compared with the reel, as {1} shows it."
A_PROOF_IS_MADE = "A proof is made: a second around the playhead."
A_PROOF_IS_THERE = "The proof is there: {0}."
A_POSTER_IS_AS_A_DELIVERY = "A poster frame is as a delivery will be: add one first."
A_POSTER_FRAME_IS_THERE = "The poster frame is there, beside the delivery: {0}."
IN_THE_PICTURE_AS_IT_WILL_BE = "In the picture: what it will be, and its file beside the reel"
A_SECOND_AROUND_THE_PLAYHEAD = "A second around the playhead, as the file will be"
THE_SOUND_OF_ITS_FILE = "The sound of the file that was made, from its start"
IS_NOT_MADE_YET = "{0} is not made yet: seal it first."
THE_FRAME_UNDER_THE_PLAYHEAD = "The frame under the playhead as a PNG beside the file"

# ---- sending -----------------------------------------------------------------------------------

WAITS_UNTIL_EVERY_FRAME_IS_THERE = "waits until every frame is there"
WAS_BEING_MADE = (
    "{0} was being made when Wax Seal ended unexpectedly: “Seal everything” goes on from there."
)
IS_SEALED_ALREADY = "{0} is sealed already."

AS_IT_WILL_BE = "As it will be"
COMPARE_WITH_ITS_FILE = "Compare with its file"
