-- Units put in order from best to worst by one judge.
CREATE TABLE line_up (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    judge TEXT NOT NULL,
    -- Numbers of units, from the best place to the worst; those in one place are tied.
    places TEXT NOT NULL CHECK (json_valid(places)),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX line_up_by_trial ON line_up (trial_no, day);
