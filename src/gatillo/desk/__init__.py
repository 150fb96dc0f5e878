"""The Qt window."""
