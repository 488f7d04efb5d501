"""Run every benchmark."""

from bench import evaluation, page, render, rigging

evaluation.full()
evaluation.one_key()
render.main()
rigging.bring_in()
rigging.weights()
rigging.sheet()
page.drag()
page.reach()
page.playback()
