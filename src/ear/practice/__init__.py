"""How an exercise is recorded and practised: recording rules, the ladder and its rungs."""
