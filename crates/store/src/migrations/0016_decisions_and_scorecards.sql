-- What was decided on the strength of a trial; a later decision stands beside the earlier ones.
CREATE TABLE decision (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    decides TEXT NOT NULL,
    treatment TEXT,
    units INTEGER CHECK (units > 0),
    reason TEXT NOT NULL,
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX decision_of ON decision (trial_no, no);

-- What counts beside the yield, and for how much, as one document.
CREATE TABLE scorecard (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL UNIQUE REFERENCES trial (no) ON DELETE CASCADE,
    document TEXT NOT NULL,
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL
) STRICT;
