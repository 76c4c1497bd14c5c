-- What somebody expects of a trial, logged before the key is opened.
CREATE TABLE guess (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    name TEXT NOT NULL,
    -- A treatment that comes out best; or a unit; or, where both are NULL, no difference.
    treatment INTEGER CHECK (treatment >= 0),
    unit_no INTEGER REFERENCES unit (no) ON DELETE CASCADE,
    by_percent REAL,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL,
    CHECK (treatment IS NULL OR unit_no IS NULL)
) STRICT;
CREATE INDEX guess_by_trial ON guess (trial_no);
