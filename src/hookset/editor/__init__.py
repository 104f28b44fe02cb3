"""A map as an editor has it open: what stands at a place, where it is defined and used, what could be written there."""
