"""Run every benchmark."""

from bench import evaluation, page, render

evaluation.full()
evaluation.one_key()
render.main()
page.drag()
page.playback()
