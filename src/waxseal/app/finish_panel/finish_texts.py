"""The sentences of the finish, all in one place so that they can be read together.

By module, in the order in which they come there. Single words and labels stay where they are used.
"""


# ---- cdl ---------------------------------------------------------------------------------------

WHICH_ONE = "Which one?"

# ---- docket ------------------------------------------------------------------------------------

FINISH_ALL_SHOTS_ALIKE = "Finish all shots alike"
AS_IT_WAS_RENDERED = "as it was rendered"
ALL_SHOTS_FINISHED_AS = "all shots finished as {0}"
CDL_FROM_A_FILE = "CDL from a file…"
CDL_FROM_A_FILE_EDIT = "{0}: CDL from a file"

# ---- line --------------------------------------------------------------------------------------

SWITCH_IT_OFF_AND_ON = "Switch it off and on"
