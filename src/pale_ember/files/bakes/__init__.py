"""Effects as pictures: sheets, sequences, films."""
