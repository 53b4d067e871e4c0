"""(job, span) to samples: reading, resampling, exact length."""
