"""The docket of a finish: what a shot, an overlay or the reel is corrected with."""
