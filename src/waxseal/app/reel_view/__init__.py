"""The reel below the picture: the rule for looking and going, the ledger for changing."""
