-- Whose trials these are.
CREATE TABLE farm (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    name TEXT NOT NULL,
    zone TEXT NOT NULL,
    -- Whether this computer too asks who it is, for a shelf computer that several people use.
    ask_here INTEGER NOT NULL DEFAULT 0 CHECK (ask_here IN (0, 1))
) STRICT;

-- Who may do what. A recorder or viewer sees no key before it is opened.
CREATE TABLE person (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    role TEXT NOT NULL CHECK (role IN ('owner', 'recorder', 'viewer')),
    -- Argon2id, in the PHC string format.
    passphrase_hash TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

-- Signed-in browsers. The id is kept as its SHA-256 only: who reads the file cannot take over a session.
CREATE TABLE session (
    id_sha256 TEXT PRIMARY KEY,
    person_id TEXT REFERENCES person (id) ON DELETE CASCADE,
    record TEXT NOT NULL,
    expires_at INTEGER NOT NULL
) STRICT;

-- What stands on the grower's shelves. Which fields an entry has is the core's catalogue (one file a shelf), checked
-- there on every write; here they stand as one JSON object.
CREATE TABLE store_item (
    id TEXT PRIMARY KEY,
    shelf TEXT NOT NULL,
    name TEXT NOT NULL COLLATE NOCASE,
    source TEXT NOT NULL,
    held TEXT NOT NULL CHECK (json_valid(held)),
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    UNIQUE (shelf, name)
) STRICT;

-- Days on which nobody is there; both dates belong to it.
CREATE TABLE away (
    id TEXT PRIMARY KEY,
    first_date TEXT NOT NULL,
    last_date TEXT NOT NULL CHECK (last_date >= first_date),
    note TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

-- The head of a trial: what lists and Today need, so that no list opens a plan. Rows of a trial carry its number, which
-- never leaves the file; its id is random.
CREATE TABLE trial (
    no INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE,
    -- Grows with every change of the plan that a person makes; a stale change is refused by it.
    version INTEGER NOT NULL DEFAULT 1,
    -- The plan that stands, and the one that was sealed at the first record.
    plan_version INTEGER NOT NULL DEFAULT 1,
    sealed_plan_version INTEGER,
    -- Taken from the plan whenever one is written.
    name TEXT NOT NULL,
    crop TEXT NOT NULL,
    primary_measure TEXT NOT NULL,
    created_at_us INTEGER NOT NULL,
    put_away_at_us INTEGER,
    sealed_at_us INTEGER,
    revealed_at_us INTEGER,
    reveal_day INTEGER,
    reveal_weighed INTEGER,
    -- The deal that stands; earlier ones stay, so that taking back a change of the plan brings its deal back too.
    deal_no INTEGER REFERENCES deal (no),
    -- Day 0 of the round it is in, `YYYY-MM-DD`.
    sown_on TEXT,
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    -- How often the sheet that tells the key was opened before the reveal.
    pouring_sheets INTEGER NOT NULL DEFAULT 0,
    -- Grows with every record; rows keep the count at which they were last written, so that a trial in memory takes in
    -- only what is new. Where records were taken back it is read as a whole again.
    changed INTEGER NOT NULL DEFAULT 0,
    rebuilt INTEGER NOT NULL DEFAULT 0,
    -- Once the key is open: the spread among units of one treatment, per cent of the mean, and its degrees of freedom.
    spread_known INTEGER NOT NULL DEFAULT 0 CHECK (spread_known IN (0, 1)),
    spread_cv_percent REAL,
    spread_df REAL
) STRICT;
CREATE INDEX trial_alike ON trial (primary_measure, revealed_at_us);

-- Every version of a plan, whole: undo, what was changed after sealing and the exported plan come from it.
CREATE TABLE plan (
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    reason TEXT NOT NULL DEFAULT '',
    -- The version that this one takes back.
    undoes INTEGER,
    -- The deal that stood before it.
    deal_before INTEGER,
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (trial_no, version)
) STRICT;

CREATE TABLE deal (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    -- The seed is a 64-bit pattern, stored as the signed integer of the same bits.
    seed INTEGER NOT NULL,
    nonce BLOB NOT NULL CHECK (length(nonce) = 32),
    commitment TEXT NOT NULL CHECK (length(commitment) = 64),
    dealt_at_us INTEGER NOT NULL
) STRICT;
CREATE INDEX deal_by_trial ON deal (trial_no);

CREATE TABLE unit (
    no INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE,
    deal_no INTEGER NOT NULL REFERENCES deal (no) ON DELETE CASCADE,
    level INTEGER NOT NULL CHECK (level > 0),
    slot INTEGER NOT NULL CHECK (slot > 0),
    code TEXT NOT NULL,
    -- Index of its treatment in the plan's sheet.
    treatment INTEGER NOT NULL CHECK (treatment >= 0),
    lost_reason TEXT,
    changed INTEGER NOT NULL DEFAULT 0,
    UNIQUE (deal_no, code),
    UNIQUE (deal_no, level, slot)
) STRICT;
CREATE INDEX unit_by_deal ON unit (deal_no, changed);

-- In a swap-over every round has a day 0 of its own; other trials have the one round.
CREATE TABLE round_begun (
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    round INTEGER NOT NULL CHECK (round > 0),
    begun_on TEXT NOT NULL,
    PRIMARY KEY (trial_no, round)
) STRICT;
