"""The life strip: curves of a particle's life."""
