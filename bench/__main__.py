"""Run every benchmark."""

from bench import (
    changes,
    evaluation,
    limbs,
    long,
    morphs,
    motion,
    page,
    proposals,
    render,
    rigging,
    shots,
    starting,
    voice,
    workers,
)

starting.main()
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
proposals.main()
page.drag()
page.reach()
page.playback()
page.film()
page.memory()
motion.main()
voice.main()
morphs.main()
shots.main()
