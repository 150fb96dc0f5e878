"""The state of a running level."""
