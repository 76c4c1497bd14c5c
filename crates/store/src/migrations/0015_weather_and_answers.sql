-- What money is counted in, and what electricity and work cost, as JSON; empty where nobody said.
ALTER TABLE farm ADD COLUMN prices TEXT NOT NULL DEFAULT '';

-- The weather of a day outdoors.
CREATE TABLE weather (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    rain_mm REAL,
    low_c REAL,
    high_c REAL,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL,
    UNIQUE (trial_no, round, day)
) STRICT;

-- What the grower says to a finding of the fairness ledger.
CREATE TABLE finding_answer (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    code TEXT NOT NULL,
    text TEXT NOT NULL,
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL,
    UNIQUE (trial_no, code)
) STRICT;
