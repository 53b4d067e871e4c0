"""Everything Wax Seal does, without a window: usable and tested on its own."""
