"""Exploring: random input that is led by what it reaches, to find what breaks an expectation or ends in a fault."""
