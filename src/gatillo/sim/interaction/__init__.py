"""Focus, prompts and talk."""
