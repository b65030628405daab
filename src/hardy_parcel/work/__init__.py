"""The worker: jobs, leases, child processes, progress, clean-up; and the rehearsal that runs inside a job."""
