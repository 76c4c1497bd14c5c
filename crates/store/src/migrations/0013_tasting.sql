-- A blind tasting of what was harvested.
CREATE TABLE tasting (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    asked TEXT NOT NULL CHECK (asked IN ('triangle', 'pair', 'liking')),
    way TEXT NOT NULL CHECK (way IN ('served', 'covered')),
    -- What is asked beside the liking, and which treatments are compared, as JSON.
    attributes TEXT NOT NULL,
    treatments TEXT NOT NULL,
    begun_at_us INTEGER NOT NULL,
    until_us INTEGER NOT NULL,
    closed_at_us INTEGER,
    who TEXT NOT NULL
) STRICT;
CREATE INDEX tasting_by_trial ON tasting (trial_no);

-- What stands before one taster once, and what they said.
CREATE TABLE seat (
    no INTEGER PRIMARY KEY,
    tasting_no INTEGER NOT NULL REFERENCES tasting (no) ON DELETE CASCADE,
    seat INTEGER NOT NULL CHECK (seat > 0),
    -- Opens this seat on a phone until the tasting ends; NULL for covered cups.
    token TEXT UNIQUE,
    cups TEXT NOT NULL,
    -- Whether it is known how the cups stood; of covered ones only once they were looked under.
    known INTEGER NOT NULL CHECK (known IN (0, 1)),
    taster TEXT NOT NULL DEFAULT '',
    answer TEXT,
    answered_at_us INTEGER,
    UNIQUE (tasting_no, seat)
) STRICT;
