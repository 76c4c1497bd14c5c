-- Rhythms of work beside feeding and reading; 0 for not at all.
ALTER TABLE trial ADD COLUMN water_every INTEGER NOT NULL DEFAULT 0 CHECK (water_every >= 0);
ALTER TABLE trial ADD COLUMN rotate_every INTEGER NOT NULL DEFAULT 0 CHECK (rotate_every >= 0);
ALTER TABLE trial ADD COLUMN observe_every INTEGER NOT NULL DEFAULT 0 CHECK (observe_every >= 0);
ALTER TABLE trial ADD COLUMN photograph_every INTEGER NOT NULL DEFAULT 0 CHECK (photograph_every >= 0);
ALTER TABLE trial ADD COLUMN thin_day INTEGER NOT NULL DEFAULT 0 CHECK (thin_day >= 0);
-- When the grower means to sow, so that the calendar can be looked at before.
ALTER TABLE trial ADD COLUMN sow_planned TEXT;
-- Work moved to another day.
CREATE TABLE job_moved (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    job TEXT NOT NULL,
    from_day INTEGER NOT NULL,
    to_day INTEGER NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX job_moved_by_trial ON job_moved (trial_id);
-- Days on which nobody is there; both dates belong to it.
CREATE TABLE away (
    id TEXT PRIMARY KEY,
    first_date TEXT NOT NULL,
    last_date TEXT NOT NULL CHECK (last_date >= first_date),
    note TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
