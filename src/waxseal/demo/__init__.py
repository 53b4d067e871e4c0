"""The demo job, “The Brass Orrery”, and what makes it: frames, sound and the job itself."""
