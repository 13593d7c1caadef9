"""Controls and painting that know nothing of the session."""
