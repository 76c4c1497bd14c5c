-- A sample of a unit that is not there, or no longer from a day on.
CREATE TABLE sample_gone (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    unit_no INTEGER NOT NULL REFERENCES unit (no) ON DELETE CASCADE,
    sample INTEGER NOT NULL CHECK (sample > 0),
    why TEXT NOT NULL CHECK (why IN ('lost', 'thinned', 'never_there')),
    note TEXT NOT NULL DEFAULT '',
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL,
    UNIQUE (unit_no, sample)
) STRICT;
CREATE INDEX sample_gone_by_trial ON sample_gone (trial_no);

-- A look at how the treatments compare, had before the end. It cannot be taken back: what was seen was seen.
CREATE TABLE look (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    measure TEXT NOT NULL,
    answer TEXT NOT NULL,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX look_by_trial ON look (trial_no, day);
