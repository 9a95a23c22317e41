"""What stands between the study and the views: hub, jobs, scheduling, keys."""
