"""Oido as an IT office runs it."""
