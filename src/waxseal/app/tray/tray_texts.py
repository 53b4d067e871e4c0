"""The sentences of the in-tray, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- docket ------------------------------------------------------------------------------------

READ_BY_A_LUT = "Read by a LUT…"
THE_FILES_NUMBERS_GO = "The file's numbers go through it before anything else"
READ_THE_OTHER_THE_SAME_WAY = "Read the other one the same way"
READ_OTHERS_THE_SAME_WAY = "Read {0} others the same way"
ALL_SOURCES_OF_THE_SAME = "All sources of the same format and channels; their ranges stay"
A_PIXELS_WIDTH_TO_ITS_HEIGHT = "A pixel's width to its height: 1 is square, 16:15 or 2 is wide"
THE_SAME_FRAMES_AT_THE_REELS_RATE = (
    "Every frame once, at the reel's rate; the sound that belongs to it runs along"
)
SCENE_GOES_THROUGH_THE_VIEW = (
    "Scene is light, and goes through the reel's view. Graphics are what a display shows: "
    "they are laid over after the view, as they are"
)
WHAT_SHOULD_BE_THERE_BOTH = "What should be there, both ends counted: 0-200 is 201 frames"
A_FRAME_AS_A_PICTURE = (
    "Type the number of a frame and press Enter: it is written as a PNG beside the delivery, "
    "in its size and colour"
)
THE_FRAMES_TO_USE = "The frames to use. The others are left out and stay on the disk"
WHAT_THE_PREMULTIPLIED_COLOUR = "What the premultiplied colour was laid over, as #rrggbb"
TAKE_THIS_RATE_HERE = "Take this rate, here and for all that were guessed alike"
OF_THE_OCIO_CONFIG = "of the OCIO config…"
READ_ANOTHER_PART_OF = "read another part of {0}"
A_SPACE_OF_THE_OCIO = "A space of the OCIO config"
READ_AT_ANOTHER_RATE = "read {0} at another rate"
EXPECT_OTHER_FRAMES_OF = "expect other frames of {0}"
WANT_OTHER_FRAMES_OF = "want other frames of {0}"
CONFIRM_THE_ALPHA_OF = "confirm the alpha of {0}"
CONFIRM_THE_PART_OF = "confirm the part of {0}"

# ---- findings ----------------------------------------------------------------------------------

COPY_THE_RE_RENDER_LIST = "Copy the re-render list"
COPIED_FOR_THE_RENDERER = "Copied for the renderer: {0}"

# ---- habits ------------------------------------------------------------------------------------

WHERE_A_FILE_DOES = "Where a file does not say, this job assumes:"
AS_THE_FORMAT_HAS_IT = "as the format has it"

# ---- lane --------------------------------------------------------------------------------------

DROP_A_FOLDER_OF_RENDERED = "Drop a folder of rendered frames."
PICTURES_ARE_READ_AS_SEQUENCES = (
    "Pictures are read as sequences, in the order of their numbers. Movies come as they "
    "are; a sound beside the frames comes along."
)

# ---- stack -------------------------------------------------------------------------------------

THE_DIFFERENCE_AS_A_PICTURE = "The difference as a picture, in the viewer"
PUT_ITS_PASSES_TOGETHER = "Put its {0} passes together"
PUT_THE_PASSES_OF_TOGETHER = "put the passes of {0} together"
TAKE_THE_STACK_APART = "take the stack {0} apart"
REMOVE_FROM_THE_STACK = "{0}: take a pass out"
ANOTHER_ORDER_OF_PASSES = "{0}: another order of passes"

# ---- words -------------------------------------------------------------------------------------

NO_FRAME_CAN_BE_READ = "no frame can be read"

# ---- sifting -----------------------------------------------------------------------------------

FIND_SOURCES = "Find sources by their name or state"
NEEDS_ATTENTION_FIRST = "Show problems first"
