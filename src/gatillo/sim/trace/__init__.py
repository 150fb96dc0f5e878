"""What has happened in a run."""
