"""Moving the stage's camera: turning, panning, zooming, framing."""

from __future__ import annotations

import numpy as np

from ...drawing.camera import axes_of, framed
from ...drawing.moment import Moment, bounds
from ..session.session import Session

NEAREST, FARTHEST = 0.05, 5000.0


class CameraMoves:
    """What mouse and keys do with the camera of a session."""

    def __init__(self, session: Session) -> None:
        self.session = session

    def frame(self, moment: Moment) -> None:
        """Bring what is shown of the selected layer, or all, into view; of a follow-up in turn one event,
        and all.
        """
        ball = self.session.event_ball
        if ball is not None:
            middle, radius = np.array(ball[0]), ball[1]
            near = framed(self.session.camera, middle - radius, middle + radius)
            if not np.allclose(near.target, self.session.camera.target, atol=1e-3):
                self.session.look_from(near)
                return
        box = bounds(moment, {self.session.selected}) or bounds(moment)
        if box is None:
            low, high = np.array([-1.0, 0.0, -1.0]), np.array([1.0, 2.0, 1.0])
        else:
            low, high = (np.asarray(corner, dtype=np.float64) for corner in box)
        self.session.look_from(framed(self.session.camera, low, high))

    def turn(self, yaw: float, pitch: float) -> None:
        """Turn round the target, degrees."""
        camera = self.session.camera
        new_yaw = (camera.yaw + yaw + 180.0) % 360.0 - 180.0
        new_pitch = min(max(camera.pitch + pitch, -89.0), 89.0)
        self.session.look_from(camera.model_copy(update={"yaw": new_yaw, "pitch": new_pitch}))

    def pan(self, right: float, up: float, height: int) -> None:
        """Move the view by pixels of a picture of some height."""
        camera = self.session.camera
        across, above, _ = axes_of(camera)
        metres = 2 * camera.distance * np.tan(np.radians(camera.view) / 2) / max(height, 1)
        target = np.array(camera.target) - across * right * metres + above * up * metres
        self.session.look_from(camera.model_copy(update={"target": tuple(float(t) for t in target)}))

    def zoom(self, factor: float) -> None:
        camera = self.session.camera
        distance = min(max(camera.distance * factor, NEAREST), FARTHEST)
        self.session.look_from(camera.model_copy(update={"distance": distance}))
