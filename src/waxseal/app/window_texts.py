"""The sentences of the window around the lanes, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- arriving ----------------------------------------------------------------------------------

TO_USE_IT = "Use it by its card's menu."
NEW_IN_A_WATCHED_FOLDER = "New in a watched folder: {0}."
IN_THE_TRAY_ALREADY = "In the in-tray already, looked at again: {0}."
NOTHING_FOUND_THERE = "No frames and no sounds were found there."

# ---- cardmenus ---------------------------------------------------------------------------------

TAKE_A_VERSION = "Use {0} in place of {1}"
USE_THE_MOVED_FILES = "It has moved: use the files there"
ONLY_WHERE_IT_IS_COMPLETE = "Use {0} only for shots whose frames are all there"
LAY_FROM_THE_REELS_START = "Lay from the reel's start"
LAY_FROM_THE_PLAYHEAD = "Lay from the playhead"
USE_IT_ALL_THE_SAME = "Use it though it is not whole"
HEAR_IT = "Hear it by itself"
STOP_HEARING = "Stop hearing it"
FIND_ITS_FILES_ELSEWHERE = "Find its files elsewhere…"
TAKE_OUT_OF_THE_IN_TRAY = "Take out of the in-tray"
PUT_ON_THE_REEL = "Put on the reel"
PUT_ON_THE_REEL_EDIT = "put {0} on the reel"
LAY_OVER_FROM_THE_PLAYHEAD = "Lay over from the playhead"
LAY_OVER_THE_REEL = "lay {0} over the reel"
PUT_BEHIND_ALL_PICTURES = "Put behind all pictures"
PUT_THE_PASSES_OF_TOGETHER = "put the passes of {0} together"
PUT_ITS_PASSES_TOGETHER = "Put its passes together"
JOIN_TITLES = {  # by their kinds
    "cut": "Cut from the shot before",
    "dissolve": "Dissolve from the shot before",
    "dip": "Dip from the shot before",
}

# ---- copying -----------------------------------------------------------------------------------

LIGHT_COPIES_STOPPED = "Light copies can no longer be made: {0}."

# ---- desk --------------------------------------------------------------------------------------

THE_AUTOSAVE_CANNOT_BE_WRITTEN = "The autosave cannot be written: {0}."

# ---- generating --------------------------------------------------------------------------------

WHO_WHEN_WHICH_VERSION = "Who, when, which version"

# ---- going -------------------------------------------------------------------------------------

FRAME_IS_NOT_ON_THE_REEL = "Frame {0} is not on the reel."
HAS_NO_ALPHA = "{0} has no alpha, or it is read as none."
A_SHOT_BEGINS_HERE = "begin a shot here"
A_SHOT_ENDS_HERE = "end a shot here"
A_SHOT_ONCE_MORE = "duplicate a shot"
TAKE_THE_MARK_AWAY = "take the mark away"

# ---- jobfiles ----------------------------------------------------------------------------------

A_DELIVERY_IS_BEING_MADE = "A delivery is being made. It stops if you leave this job."
HAS_NOT_SAVED_YET = "“{0}” has {1} not saved yet."
AN_AUTOSAVE_IS_BROKEN = "An autosave cannot be read. It stays for a month as {0}."
ONE_JOB_AT_A_TIME = "Only {0} was opened: one job at a time."
BRING_IT_AGAIN = "A job is being opened or saved. Bring this in again when it is done."
ONLY_FILES_OF_THIS_MACHINE = (
    "What is not a file of this machine was left out: save it to a folder, and drop that."
)
TAKE_THE_JOB_ON_DISK = "take the job that is on the disk"
CHANGED_ON_DISK = "{0} was changed by something else. Saving will ask which of the two to keep."
GONE_FROM_DISK = "{0} is not there any more. Saving will ask where to."
IT_WAS_CHANGED_SINCE = (
    "{0} was changed by something else since you opened it. If you keep yours, what was changed "
    "there is lost. If you take theirs, undo brings yours back."
)
IT_IS_GONE = "{0} was moved or deleted since you opened it."
THE_DEMO_IS_BEING_TRACED = "The demo is being traced…"
THE_DEMO_SO_FAR = "The demo is being traced: {0} of {1} frames{2}"
THE_DEMO_COULD_NOT_BE_MADE = "The demo could not be made: {0}"
WAS_OPEN_AT_A_CRASH = "“{0}” was open when Wax Seal ended unexpectedly."

# ---- relinking ---------------------------------------------------------------------------------

MATCHING_FILES_WERE_FOUND = "Matching files were found for these sources:"
SOURCES_THAT_WERE_FOUND_AGAIN = "Sources that were found again"
WHERE_ARE_THE_FILES_NOW = "Where are the files now?"
NO_FILES_THERE_MATCH = "No files there match the sources' names and numbers."
USE_THE_FILES_OF_ELSEWHERE = "use the files of {0} elsewhere"

# ---- rerenderlists -----------------------------------------------------------------------------

NOTHING_TO_RERENDER = "There is nothing to re-render."
SAVE_ALL_RE_RENDER_LISTS = "Save all re-render lists"
CANNOT_BE_WRITTEN = "{0} cannot be written: {1}."

# ---- watching ----------------------------------------------------------------------------------

IS_WHOLE_ALL_FRAMES = "{0} is whole: all {1} frames are there."

# ---- window ------------------------------------------------------------------------------------

ADD_A_FOLDER_OF_FRAMES = "Add a folder of frames"
ADD_FRAMES_OR_SOUNDS = "Add frames or sounds"
COMPILING = (
    "The pixel code is being compiled for this machine. This is done once: pictures appear in "
    "about half a minute."
)
THE_FOLDERS_ARE_WATCHED = "The folders are watched."
THE_FOLDERS_ARE_NOT_WATCHED = "The folders are not watched."
TAKE_ALL_VERSIONS = "take all new versions"
LIGHT_COPIES_ARE_ON = "Light copies are on: what is too heavy to play gets one."
LIGHT_COPIES_ARE_OFF = "Light copies are off."
NOTHING_IS_SEALED_YET = "Nothing is sealed yet."
ABOUT = (
    "Wax Seal {0}\n\nRendered frame sequences in, checked and sealed delivery videos out.\n\n"
    "Free software under the GNU General Public License, version 3 or later."
)
