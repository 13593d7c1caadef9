"""The bars of the window and the titles of its panels as they are painted."""

from pale_ember.app.window.panels import TitleBar

from ..pictures import PictureCase


class WindowPictures(PictureCase):
    def test_bars_and_titles(self):
        window = self.window
        self.session.seek(0.5)
        self.wait_for_moment()
        window.top_bar.cost.hide()
        self.assert_looks("top-bar", window.top_bar)
        for bar in window.findChildren(TitleBar):
            self.assert_looks(f"title-{bar.title}".lower().replace(" ", "-"), bar)
        for name in ("fold_recipe", "fold_timeline"):
            window.actions_by_name[name].trigger()
        for bar in window.findChildren(TitleBar):
            if bar.folded:
                self.assert_looks(f"folded-{bar.title}".lower().replace(" ", "-"), bar)
        self.session.said.emit("A sentence for the artist.")
        self.assert_looks("notice", window.notice)
        window.toggle_stage_alone()
        self.assert_looks("slim-bar", window.slim_bar)
