-- Records. All have one head: crop and sample inside the unit (0: the unit as a whole), day and round, when it was done
-- and when it was entered (microseconds since 1970, UTC), by whom, with what, and the count of the trial's records at
-- which the row was last written.
CREATE TABLE reading (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    unit_no INTEGER NOT NULL REFERENCES unit (no) ON DELETE CASCADE,
    crop INTEGER NOT NULL DEFAULT 0 CHECK (crop >= 0),
    sample INTEGER NOT NULL DEFAULT 0 CHECK (sample >= 0),
    reading TEXT NOT NULL,
    day INTEGER NOT NULL CHECK (day >= 0),
    -- Which of several on one day.
    nth INTEGER NOT NULL DEFAULT 1 CHECK (nth > 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    -- In the unit of the reading: pH, mS/cm at 25 C, mm. NULL: looked, and marked as missing.
    value REAL,
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    instrument TEXT,
    version INTEGER NOT NULL DEFAULT 1,
    changed INTEGER NOT NULL,
    UNIQUE (unit_no, reading, crop, sample, day, nth)
) STRICT;
CREATE INDEX reading_by_trial ON reading (trial_no, changed);

CREATE TABLE weighing (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    unit_no INTEGER NOT NULL REFERENCES unit (no) ON DELETE CASCADE,
    crop INTEGER NOT NULL DEFAULT 0 CHECK (crop >= 0),
    sample INTEGER NOT NULL DEFAULT 0 CHECK (sample >= 0),
    gross_g REAL NOT NULL CHECK (gross_g >= 0),
    tare_g REAL NOT NULL CHECK (tare_g >= 0),
    net_g REAL NOT NULL CHECK (net_g >= 0),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    instrument TEXT,
    version INTEGER NOT NULL DEFAULT 1,
    changed INTEGER NOT NULL,
    UNIQUE (unit_no, crop, sample)
) STRICT;
CREATE INDEX weighing_by_trial ON weighing (trial_no, changed);

CREATE TABLE note (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    -- NULL: the whole trial.
    unit_no INTEGER REFERENCES unit (no) ON DELETE CASCADE,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    text TEXT NOT NULL,
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX note_by_trial ON note (trial_no, changed);

CREATE TABLE job_done (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    job TEXT NOT NULL,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX job_done_by_trial ON job_done (trial_no, changed);

-- Work moved to another day.
CREATE TABLE job_moved (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    job TEXT NOT NULL,
    from_day INTEGER NOT NULL,
    to_day INTEGER NOT NULL,
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX job_moved_by_trial ON job_moved (trial_no, changed);

-- A mix as it was made: batch, temperature, what was computed, and why meter and computation parted where they did.
CREATE TABLE mix (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    treatment INTEGER NOT NULL CHECK (treatment >= 0),
    volume_l REAL NOT NULL CHECK (volume_l > 0),
    feed_total REAL NOT NULL CHECK (feed_total >= 0),
    ec_ms_per_cm REAL,
    ph REAL,
    batch TEXT NOT NULL DEFAULT '',
    temperature_c REAL CHECK (temperature_c BETWEEN 0 AND 50),
    computed_ec_ms_per_cm REAL CHECK (computed_ec_ms_per_cm >= 0),
    gap_why TEXT NOT NULL DEFAULT '' CHECK (gap_why IN ('', 'scale', 'water', 'probe', 'label', 'unknown')),
    -- What was found where meter and computation parted, in the grower's own words.
    gap_note TEXT NOT NULL DEFAULT '',
    -- What was weighed or poured, ingredient by ingredient, from which lot.
    portions TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(portions)),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX mix_by_trial ON mix (trial_no, changed);

-- Every write appends here in its own transaction: who, when, what it was before and after.
CREATE TABLE history (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    -- Id of the trial; for what belongs to none, a word.
    trial_id TEXT NOT NULL,
    at TEXT NOT NULL,
    who TEXT NOT NULL,
    action TEXT NOT NULL,
    entity TEXT NOT NULL,
    entity_id TEXT NOT NULL,
    before TEXT,
    after TEXT,
    undone INTEGER NOT NULL DEFAULT 0 CHECK (undone IN (0, 1))
) STRICT;
CREATE INDEX history_by_trial ON history (trial_id, id);
CREATE INDEX history_to_undo ON history (trial_id, who, id) WHERE undone = 0;

-- A retry after a lost reply carries the same key and gets the same answer.
CREATE TABLE request (
    who TEXT NOT NULL,
    key TEXT NOT NULL,
    body_sha256 TEXT NOT NULL,
    response TEXT NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (who, key)
) STRICT;
