"""Benches: what Oido costs, and how well it hears, in figures. `./oido bench NAME` runs one."""
