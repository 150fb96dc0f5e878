"""Shapes, contacts, hits and overlaps, rays and areas."""
