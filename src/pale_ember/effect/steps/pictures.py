"""The step that brings in picture files: one, a sequence, or the frames of a sheet."""

from __future__ import annotations

from ..kinds import Channel, PictureFit
from ..rules import fields
from .base import Maker


class Picture(Maker):
    """Picture files, one for each frame in turn; of a sheet, its frames."""

    step: str = "picture"
    files: tuple[str, ...] = fields.pictures(
        "Files", "Picture files, in the order of their frames.", also="image sequence browse open path"
    )
    channel: Channel = fields.choice(
        Channel.ALL,
        "Channel",
        "Colours and alpha, or one channel as a mask.",
        also="mask red green blue alpha",
    )
    fit: PictureFit = fields.choice(
        PictureFit.WHOLE,
        "Fit",
        "Whole inside the frame, filling it, or stretched to it.",
        also="crop scale aspect",
    )
    layer: str = fields.text(
        "",
        "Layer",
        "Which layer of an EXR; empty is the picture without a name, or else the first.",
        also="exr pass channel aov",
    )
    columns: int = fields.integer(
        1,
        "Columns",
        "Frames across, if each file is a sheet.",
        hard=(1, 64),
        soft=(1, 16),
        also="sheet cut grid",
    )
    rows: int = fields.integer(
        1, "Rows", "Frames down, if each file is a sheet.", hard=(1, 64), soft=(1, 16), also="sheet cut grid"
    )
    count: int = fields.integer(
        0,
        "Count",
        "How many frames of each sheet count; 0 means all.",
        hard=(0, 4096),
        soft=(0, 64),
        also="sheet cut count",
    )
    margin: int = fields.integer(
        0,
        "Margin",
        "Pixels around the whole sheet.",
        unit="px",
        hard=(0, 1024),
        soft=(0, 16),
        also="sheet cut padding border",
    )
    gap: int = fields.integer(
        0,
        "Gap",
        "Pixels between its frames.",
        unit="px",
        hard=(0, 1024),
        soft=(0, 16),
        also="sheet cut padding spacing",
    )
    plain: bool = fields.flag(
        False, "Plain", "Its colours are plain numbers, such as normals or masks.", also="linear data srgb"
    )

    def key_of(self, file: str) -> str:
        """Return what a file's picture is called among those that steps bring in: the file, and its layer
        if one is chosen.
        """
        return f"{file}\0{self.layer}" if self.layer else file
