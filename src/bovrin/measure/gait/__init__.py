"""How a figure goes: when its feet are down, how far a stride takes it, how much planted feet slide."""
