"""The sentences of the picture, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- transport ---------------------------------------------------------------------------------

TO_THE_FIRST_FRAME_HOME = "To the first frame (Home)"
ONE_FRAME_BACK_LEFT = "One frame back (Left)"
PLAY_OR_STOP_SPACE = "Play or stop (Space)"
ONE_FRAME_ON_RIGHT = "One frame on (Right)"
TO_THE_LAST_FRAME_END = "To the last frame (End)"
FRAME_OF_THE_REEL = "Frame of the reel"
HOW_FAST_IT_PLAYS = "How fast it plays; the pitch of the sound is kept"
PLAY_BACKWARDS = "Play backwards (Shift+Space)"
MUTE_AND_MENU = "Mute the window (M); the menu has volume, device, and how late the sound is"
VOLUME_OF_LISTENING = "How loud the window is; deliveries are as loud as the reel says"
HOW_LOUD_IT_IS = (
    "Since it began to play: momentary {0}, short-term {1}, integrated {2} LUFS, true peak {3} dBTP"
)
NOTHING_IS_PLAYED = "How loud the reel is, while it plays"
HOW_LATE = "Milliseconds by which the sound comes after its picture:"

# ---- viewer ------------------------------------------------------------------------------------

FRAME_MUST_BE_RERENDERED = "{0}: frame {1} has to be re-rendered"
FRAME_STANDS_IN_FOR = "{0}: frame {1} stands in for {2}"
IS_NOT_IN_THIS_DELIVERY = "This frame is not in the delivery."
DRAG_WHAT_IS_KEPT = "drag the picture to choose what is kept"
DIFFERENCE_TIMES_AS_STRONG = "difference, {0} times as strong"
HIGH_RANGE_FITTED = "high range, fitted to this screen"

# ---- besidebar ---------------------------------------------------------------------------------

AS_THE_DELIVERY_WILL_HAVE_IT = "What the reel gives, in the size and the codes of the delivery"
WHAT_THE_FILE_SHOWS = "What the file shows"
DRAG_THE_EDGE = "The reel on the left, the file on the right: drag the edge, or Alt+Left, Alt+Right"
HOW_FAR_APART = "How far the file is from the reel, made stronger so that it is seen"
BACK_TO_THE_REEL = "Back to the reel (D)"
