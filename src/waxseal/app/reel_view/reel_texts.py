"""The sentences of the reel, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- docket ------------------------------------------------------------------------------------

THE_REEL_FRAME_WHERE_IT_BEGINS = "The reel frame where it begins, from 1"
LENGTH_IN_REEL_FRAMES = "Reel frames; 0 is as long as its source"
FOR_TEXT_AND_SOFT = "For text and soft edges from 2D programs, which mix display-encoded values"

# ---- joinsection -------------------------------------------------------------------------------

HOW_IT_MEETS_THE_ONE_BEFORE = (
    "How this shot meets the one before: a dissolve overlaps both, a dip goes through a colour"
)
LENGTH_OF_A_JOIN = "Reel frames. Half of a dip belongs to the shot before"
THE_COLOUR_OF_A_DIP = "The colour that a dip goes through"
WHAT_A_JOIN_IS_MIXED_ON = "Display-encoded is even to the eye. Scene-linear mixes as light does"
JOIN_ALL_SHOTS_ALIKE = "Join all shots alike"
ALL_SHOTS_JOINED_ALIKE = "all shots joined alike"
A_DISSOLVE_OVERLAPS = "Both shots overlap: the reel is {0} shorter than with a cut."
A_JOIN_IS_CUT_SHORT = "The shots are too short: it takes {0} of {1} frames."
NO_ROOM_FOR_A_JOIN = "It stays a cut: one of the shots is too short."

# ---- ledger ------------------------------------------------------------------------------------

FOLLOW_ITS_SHOTS = "follow its shots"
SOURCE_AND_THE_PART = "source, and the part in use"
ANOTHER_ORDER_OF_OVERLAYS = "another order of overlays"
TAKE_AN_OVERLAY_OFF = "take an overlay off the reel"
SET_BY_ITS_SHOTS = "from the first shot:"
TAKE_OFF_THE_REEL = "take {0} off the reel"
THE_REEL_AS_ITS_SHOTS = "the reel as its shots"
TAKE_THE_SOUND_OFF = "take the sound off the reel"

# ---- reeldocket --------------------------------------------------------------------------------

THE_PRIMARIES_THAT_LIGHT = "The primaries that light is mixed and corrected in"
PLAIN_IS_THE_DISPLAYS = "Plain is the display's curve alone; ACES also rolls highlights off"
DROP_FRAME_KEEPS_UP = (
    "Drop-frame skips numbers, not frames, so that timecode keeps up with the clock: 00:01:00;02"
)
THE_WHITE_OF_GRAPHICS = (
    "How bright the white of graphics is in a PQ or HLG delivery: 203 by ITU-R BT.2408"
)
VIEW_OF_THE_CONFIG = "View of the config"

# ---- rule --------------------------------------------------------------------------------------

RULE_THE_REEL_IN_TRUE = "Rule: the reel in true time"
THE_REEL_IS_EMPTY = "The reel is empty. Sequences that you drop on the in-tray appear here."

# ---- sections ----------------------------------------------------------------------------------

STAYS_IN_THE_MIDDLE = "The point that stays in the middle where a delivery cuts the picture"
SHARP_IS_FOR_PICTURES = "Sharp is for pictures. Soft is for mattes: it never overshoots"
FRAME_ALL_SHOTS_ALIKE = "Frame all shots alike"
PLACE_IN_THE_FRAME = "place in the frame"
ALL_SHOTS_FRAMED_ALIKE = "all shots framed alike"
OF_THE_RATE_THAT_IT_IS_READ = "Of the rate that it is read at: 100 %, 50 %, 24/25"
REEL_FRAMES_THE_SPEED_FOLLOWS = "Reel frames: the speed follows"
SOURCE_FRAMES_THAT_ARE_LEFT = "Source frames that are left out: 61-64,70"
HELD_FRAMES = "A source frame and how often it is shown: 24×12, 48×6"

# ---- soundrow ----------------------------------------------------------------------------------

IT_IS_BOUND = "Bound: it belongs to its shot's frames, and follows them in every edit."
IT_IS_FREE = "Free: it lies on the reel by itself."
KEYS_OF_A_SOUND = (
    "Return opens it. Alt+Left and Alt+Right move it by a frame, with Shift by a tenth of one, "
    "with Ctrl by a sample. Delete takes it off the reel."
)
SECONDS_LEFT_OUT = "Seconds of the sound that are left out; the rest is heard when it was"
FRAMES_OF_THE_REEL = "The reel frame with which it begins: 25, or 25.1 for a tenth later"
FRAMES_OF_ITS_SHOT = "The frame of its shot with which it begins: 1 is the shot's first"
FRAMES_OF_ITS_SOURCE = "The frame of its source with which it begins: 1 is the first there is"
AT_ANOTHER_SPEED = "What it does where its frames are shown faster or slower than they are read"
HEARD_BACKWARDS = "heard backwards with its frames"
BIND_TO_ITS_SHOT = "bind to its shot"
SET_FREE = "set free"
LINE_UP = "line up by clap and flash"
CLAP_AND_FLASH = "Find the clap in the sound and the flash in the picture, and bring them together"
TAKE_OFF_IT = "take off the reel"
TIE_TO_THE_SHOT = "tie to the shot there"
LIES_WHERE_IT_SHOULD = "it lies where it should"
LISTENING_ONLY = "While you listen in this window; a delivery has it all the same"
PAN = "From -100, left, to 100, right"
FADE_SECONDS = "Seconds of the fade"

# ---- loudnessline ------------------------------------------------------------------------------

NO_SOUND_TO_MEASURE = "The reel has no sound to measure."
REEL_IS_SILENT = "The reel is silent throughout."
REEL_LOUDNESS = "The reel measures {0} LUFS, its true peak {1} dBTP."

# ---- what could lie over its neighbour ---------------------------------------------------------

HAS_ALPHA = "{0} has alpha: it can lie over the shot beside it instead of standing on its own."
LAY_OVER_ITS_NEIGHBOUR = "lay over the shot beside it"

# ---- by ear ------------------------------------------------------------------------------------

KEYS_OF_A_ROW = "Return opens it. Alt+Up and Alt+Down move it. Delete takes it off the reel."

# ---- an empty reel -----------------------------------------------------------------------------

THE_REEL_APPEARS_HERE = (
    "The reel: shots one after the other, a row for each. What you drop is put on it in its "
    "order. Drag a row to move it, drag the ends of its bar to cut heads and tails, and open it "
    "for framing, time and finish."
)
