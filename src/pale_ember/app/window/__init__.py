"""The window as a whole: commands, panels, starting."""
