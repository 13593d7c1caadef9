"""The parts of an effect that artists see as chapters: where a layer stands, how particles move and look."""
