CREATE TABLE farm (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    name TEXT NOT NULL,
    zone TEXT NOT NULL
) STRICT;

CREATE TABLE trial (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    question TEXT NOT NULL,
    hypothesis TEXT NOT NULL,
    goal TEXT NOT NULL CHECK (goal IN ('beat', 'match', 'best')),
    better TEXT NOT NULL CHECK (better IN ('higher', 'lower')),
    crop TEXT NOT NULL,
    primary_measure TEXT NOT NULL,
    margin_kind TEXT NOT NULL CHECK (margin_kind IN ('percent', 'absolute')),
    margin_value REAL NOT NULL CHECK (margin_value > 0),
    end_day INTEGER NOT NULL CHECK (end_day > 0),
    rack_name TEXT NOT NULL,
    rack_levels INTEGER NOT NULL CHECK (rack_levels > 0),
    rack_slots INTEGER NOT NULL CHECK (rack_slots > 0),
    feed_form TEXT NOT NULL CHECK (feed_form IN ('liquid', 'powder')),
    feed_label_per_litre REAL NOT NULL CHECK (feed_label_per_litre > 0),
    feed_ml_a_unit REAL NOT NULL CHECK (feed_ml_a_unit > 0),
    feed_spare_percent REAL NOT NULL CHECK (feed_spare_percent >= 0),
    blackout_days INTEGER NOT NULL,
    first_feed_day INTEGER NOT NULL,
    feed_every INTEGER NOT NULL,
    read_every INTEGER NOT NULL,
    created_at TEXT NOT NULL,
    sown_on TEXT,
    sealed_at TEXT,
    revealed_at TEXT,
    reveal_day INTEGER,
    reveal_weighed INTEGER
) STRICT;

CREATE TABLE plan_change (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    at TEXT NOT NULL,
    field TEXT NOT NULL,
    before TEXT NOT NULL,
    after TEXT NOT NULL,
    reason TEXT NOT NULL
) STRICT;

CREATE TABLE treatment (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    control INTEGER NOT NULL CHECK (control IN (0, 1)),
    UNIQUE (trial_id, position)
) STRICT;

CREATE TABLE condition_value (
    treatment_id TEXT NOT NULL REFERENCES treatment (id) ON DELETE CASCADE,
    condition TEXT NOT NULL,
    value TEXT NOT NULL,
    PRIMARY KEY (treatment_id, condition)
) STRICT;

CREATE TABLE deal (
    trial_id TEXT PRIMARY KEY REFERENCES trial (id) ON DELETE CASCADE,
    -- The seed is a 64-bit pattern, stored as the signed integer of the same bits.
    seed INTEGER NOT NULL,
    nonce BLOB NOT NULL CHECK (length(nonce) = 32),
    commitment TEXT NOT NULL CHECK (length(commitment) = 64),
    dealt_at TEXT NOT NULL
) STRICT;

CREATE TABLE unit (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    level INTEGER NOT NULL CHECK (level > 0),
    slot INTEGER NOT NULL CHECK (slot > 0),
    code TEXT NOT NULL,
    treatment_id TEXT NOT NULL REFERENCES treatment (id),
    lost_reason TEXT,
    UNIQUE (trial_id, code),
    UNIQUE (trial_id, level, slot)
) STRICT;

CREATE TABLE reading (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE,
    reading TEXT NOT NULL,
    day INTEGER NOT NULL,
    -- In the unit of the reading: pH, mS/cm at 25 C, mm. NULL: looked, and marked as missing.
    value REAL,
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    UNIQUE (unit_id, reading, day)
) STRICT;
CREATE INDEX reading_by_trial ON reading (trial_id, day);

CREATE TABLE note (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    unit_id TEXT REFERENCES unit (id) ON DELETE CASCADE,
    day INTEGER NOT NULL,
    text TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX note_by_trial ON note (trial_id, day);

CREATE TABLE job_done (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    job TEXT NOT NULL,
    day INTEGER NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX job_done_by_trial ON job_done (trial_id);

CREATE TABLE mix (
    id TEXT PRIMARY KEY,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    treatment_id TEXT NOT NULL REFERENCES treatment (id) ON DELETE CASCADE,
    volume_l REAL NOT NULL CHECK (volume_l > 0),
    feed_total REAL NOT NULL CHECK (feed_total >= 0),
    ec_ms_per_cm REAL,
    ph REAL,
    day INTEGER NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX mix_by_trial ON mix (trial_id);

CREATE TABLE weighing (
    unit_id TEXT PRIMARY KEY REFERENCES unit (id) ON DELETE CASCADE,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    gross_g REAL NOT NULL CHECK (gross_g >= 0),
    tare_g REAL NOT NULL CHECK (tare_g >= 0),
    net_g REAL NOT NULL CHECK (net_g >= 0),
    day INTEGER NOT NULL,
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX weighing_by_trial ON weighing (trial_id);

-- Every write appends here in its own transaction: who, when, what it was before and after.
CREATE TABLE history (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
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

-- A retry after a lost reply carries the same key and gets the same answer.
CREATE TABLE request (
    who TEXT NOT NULL,
    key TEXT NOT NULL,
    body_sha256 TEXT NOT NULL,
    response TEXT NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (who, key)
) STRICT;
