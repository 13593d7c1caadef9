"""Closed rooms for particles, of props and of meshes, and who is in them."""

import numpy as np

from pale_ember.effect.values.rotations import angles_of, matrix_of


def write_stl(path, triangles):
    """Write triangles, (n, 3, 3), as binary STL; return the file's name."""
    rows = np.zeros(
        len(triangles), np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("spare", "<u2")])
    )
    rows["corners"] = triangles
    path.write_bytes(bytes(80) + len(triangles).to_bytes(4, "little") + rows.tobytes())
    return str(path)


def ball_of(subdivisions, bumps=0.0):
    """Return a ball of triangles that look inward, 1 m wide, with bumps."""
    import trimesh

    made = trimesh.creation.icosphere(subdivisions=subdivisions, radius=0.5)
    points = np.array(made.vertices)
    points *= 1.0 + bumps * np.sin(11 * points[:, :1]) * np.cos(9 * points[:, 1:2])
    return points[np.array(made.faces)][:, ::-1]


def walls_around(half, thick, kind="box", turn=(0.0, 0.0, 0.0)):
    """Return six props around a room of half a size, turned about its middle at 0."""
    axes, found = matrix_of(turn), []
    wide = 2 * (half + thick) * (1.5 if kind == "cylinder" else 1.0)
    for axis in range(3):
        for sign in (-1, 1):
            rotation = ((0, 0, -90 * sign), (0, 0, 0) if sign > 0 else (180, 0, 0), (90 * sign, 0, 0))[axis]
            found.append(
                {
                    "kind": kind,
                    "position": (axes[:, axis] * sign * half).tolist(),
                    "rotation": list(angles_of(axes @ matrix_of(rotation))),
                    "size": [wide, thick, wide],
                }
            )
    return found


def are_inside(triangles, points):
    """Return which points triangles enclose, by the winding number (A. van Oosterom, J. Strackee, 1983)."""
    found = np.zeros(len(points))
    for i, point in enumerate(points):
        a, b, c = np.moveaxis(triangles - point, 1, 0)
        la, lb, lc = (np.linalg.norm(one, axis=1) for one in (a, b, c))
        whole = np.einsum("tk,tk->t", a, np.cross(b, c))
        beside = (
            la * lb * lc
            + np.einsum("tk,tk->t", a, b) * lc
            + np.einsum("tk,tk->t", b, c) * la
            + np.einsum("tk,tk->t", a, c) * lb
        )
        found[i] = 2.0 * np.arctan2(whole, beside).sum() / (4.0 * np.pi)
    return np.abs(found) > 0.5
