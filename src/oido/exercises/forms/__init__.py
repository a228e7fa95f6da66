"""Forms of exercises: a file sent, what to take of it, recording rules, the ladder."""
