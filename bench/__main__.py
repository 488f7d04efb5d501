"""Run every benchmark."""

from bench import changes, evaluation, limbs, long, morphs, motion, page, render, rigging, shots, voice, workers

evaluation.full()
evaluation.one_key()
long.motion()
long.chain()
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
