"""(job, frame of the reel) to recipe: everything that frame's pixels depend on, nothing else."""
