"""Sweeping up: assets and film files that nothing needs any more."""

from __future__ import annotations

import time
from pathlib import Path

from sqlalchemy import Engine, select, text

from sorvan.picture.studio import ART_MEDIA
from sorvan.store.tables import renders

GRACE = 24 * 3600.0
"""Seconds that what nothing needs stays: it may have come in a moment ago, for a change that is still to be made."""

# An asset is needed if a document, a change that may be taken back, a render or a rig on the shelf names it, or a drawing
# that is needed.
_SWEEP = text(
    """
    WITH named AS (
        SELECT (regexp_matches(body::text, '[0-9a-f]{64}', 'g'))[1] AS id FROM documents
        UNION SELECT (regexp_matches(writes::text, '[0-9a-f]{64}', 'g'))[1] FROM changes
        UNION SELECT (regexp_matches(command::text, '[0-9a-f]{64}', 'g'))[1] FROM changes
        UNION SELECT (regexp_matches(documents::text, '[0-9a-f]{64}', 'g'))[1] FROM renders
        UNION SELECT (regexp_matches(body::text, '[0-9a-f]{64}', 'g'))[1] FROM rigs
    ), needed AS (
        SELECT id FROM named
        UNION SELECT (regexp_matches(convert_from(data, 'UTF8'), '[0-9a-f]{64}', 'g'))[1]
        FROM assets JOIN named USING (id) WHERE media = :art
    ), gone AS (
        DELETE FROM assets WHERE at < now() - make_interval(secs => :grace) AND id NOT IN (SELECT id FROM needed)
        RETURNING octet_length(data) AS size
    )
    SELECT count(*), coalesce(sum(size), 0) FROM gone
    """
)


def sweep_assets(engine: Engine, grace: float = GRACE) -> tuple[int, int]:
    """Remove the assets that nothing needs and that were last brought in more than `grace` seconds ago. Gives how many
    there were, and their bytes."""
    with engine.begin() as db:
        count, size = db.execute(_SWEEP, {"art": ART_MEDIA, "grace": grace}).one()
    return int(count), int(size)


def sweep_films(engine: Engine, folder: Path, grace: float = GRACE) -> tuple[int, int]:
    """Remove the film files, whole or in the making, of renders that are no more. Gives how many, and their bytes."""
    files = [f for f in folder.iterdir() if f.is_file()] if folder.is_dir() else []
    with engine.connect() as db:
        known = set(db.scalars(select(renders.c.id)))
    count = size = 0
    for file in files:
        facts = file.stat()
        whole = file.name.partition(".")[0] in known
        in_the_making = len(file.suffix) == 9
        if (whole and not in_the_making) or facts.st_mtime > time.time() - grace:
            continue
        file.unlink(missing_ok=True)
        count, size = count + 1, size + facts.st_size
    return count, size
