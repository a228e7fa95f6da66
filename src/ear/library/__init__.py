"""Graded exercises to begin with, all written for Oido."""
