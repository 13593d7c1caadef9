"""Every command of the window, a row each, in the order of the menus."""

from .edit import EDIT
from .file import DEMOS, FILE
from .layer import LAYER
from .texture import TEXTURE
from .time import STRIP, TIME
from .view import CHAPTER, VIEW

COMMANDS = (*FILE, *EDIT, *LAYER, *TIME, *STRIP, *TEXTURE, *VIEW, *CHAPTER)

__all__ = ["COMMANDS", "DEMOS"]
