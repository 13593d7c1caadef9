"""Effects and checks that tests of bundles share."""

import json
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np
import trimesh
from PIL import Image

from pale_ember.effect import Effect, load_effect
from pale_ember.effect.rules.edit import edited
from pale_ember.effect.storing.storage import effect_text
from pale_ember.files.profile import Profile

VALIDATORS = Path(__file__).parents[1] / "validators"


def profile(**edits):
    """Return a profile; ``bundle__player=False`` stands for ``bundle.player``."""
    found = Profile()
    for path, value in edits.items():
        found = edited(found, path.replace("__", "."), value)
    return found


PLAIN = profile(bundle__player=False, bundle__runtime=False)


def gltf_issues(data):
    """Return the messages of the format's validator that are errors or warnings; None where it isn't
    installed.
    """
    if shutil.which("node") is None or not (VALIDATORS / "node_modules").exists():
        return None
    with tempfile.NamedTemporaryFile(suffix=".glb") as file:
        file.write(data)
        file.flush()
        said = subprocess.run(
            ["node", "gltf.js", file.name], cwd=VALIDATORS, capture_output=True, text=True, check=True
        ).stdout
    return [one for one in json.loads(said)["messages"] if one["severity"] < 2]


def rich_effect(folder: Path) -> Path:
    """Write an effect that needs files, two of one name in different folders, and everything that a
    bundle has; return its path.
    """
    folder.mkdir(parents=True, exist_ok=True)
    for name, color in (("a", (255, 120, 20)), ("b", (20, 90, 255))):
        (folder / name).mkdir(exist_ok=True)
        y, x = np.mgrid[-1:1:32j, -1:1:32j]
        cover = np.clip(1.2 - np.hypot(x, y), 0, 1)
        pixels = np.dstack([*(np.full_like(cover, part) for part in color), cover * 255]).astype(np.uint8)
        Image.fromarray(pixels).save(folder / name / "puff.png")
    mesh = trimesh.creation.icosphere(2, 0.5)
    mesh.export(folder / "stone.obj")
    effect = Effect(name="Marsh stones", duration=1.0, notes="Tide & <salt>.").edit(
        "textures",
        [
            {"name": "warm", "file": "a/puff.png"},
            {"name": "cold", "file": "b/puff.png"},
            {
                "name": "made",
                "frames": 4,
                "build": {"size": 32, "steps": [{"step": "dot"}, {"step": "normals"}]},
            },
        ],
    )
    effect = effect.edit(
        "layers",
        [
            {
                "id": "warm",
                "name": "Warm",
                "look": {"texture": "warm", "grow": {"curve": [[0, 0], [0.3, 1], [1, 0.2]]}},
            },
            {
                "id": "cold",
                "name": "Cold",
                "look": {
                    "texture": "cold",
                    "color": {
                        "gradient": [[0, "#ffffff"], [0.5, "#203040"], [0.5, "#ff0000"], [1, "#000000"]]
                    },
                },
            },
            {
                "id": "stones",
                "name": "Stones",
                "look": {"draw": "mesh", "mesh": {"mesh": "stone.obj"}},
                "birthplace": {"kind": "mesh", "mesh": "ball"},
            },
            {"id": "made", "name": "Made", "look": {"texture": "made"}, "emit": {"rate": 5, "cap": 3}},
        ],
    )
    at = folder / "stones.ember"
    at.write_text(effect_text(effect))
    return at


class BundleCase(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp(prefix="pale-ember-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def rich(self):
        at = rich_effect(self.folder / "work")
        return at, load_effect(at)


QUICK = ["--set", "bundle.player=false", "--set", "bundle.runtime=false"]
