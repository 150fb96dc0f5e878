"""Runs driven by another program, over JSON-RPC 2.0."""
