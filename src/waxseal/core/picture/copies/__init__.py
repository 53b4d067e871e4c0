"""Light copies: made for what is too heavy to play, kept in a folder."""
