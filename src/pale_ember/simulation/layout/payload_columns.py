"""The columns of ``Births.payload``: what a follow-up's particle takes over from the event that starts it."""

# The event's place, m; where the layer's axis points, 0 for its own way; velocity, m/s; colour and size of
# the parent. Of ribbons also: the parent's number, a whole one in the same memory; how far it had gone, m.
PLACE, AXIS, VELOCITY, COLOR, SIZE, PARENT, WALKED = 0, 3, 6, 9, 12, 13, 14
COLUMNS = 15
