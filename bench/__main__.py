"""Run every benchmark."""

from bench import changes, evaluation, limbs, morphs, motion, page, render, rigging, shots, voice, workers

evaluation.full()
evaluation.one_key()
changes.main()
limbs.main()
render.main()
workers.main()
rigging.bring_in()
rigging.weights()
rigging.sheet()
page.drag()
page.reach()
page.playback()
page.film()
page.memory()
motion.main()
voice.main()
morphs.main()
shots.main()
