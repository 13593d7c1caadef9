"""What a follow-up's particle is given of the event that starts it: the columns of ``Births.given``."""

# The event's place, m; where the layer's axis points, 0 for its own way; velocity, m/s; colour and size of the parent.
PLACE, AXIS, VELOCITY, COLOR, SIZE = 0, 3, 6, 9, 12
COLUMNS = 13
