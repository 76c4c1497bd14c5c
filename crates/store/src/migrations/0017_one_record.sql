-- Records of all kinds but readings, of which there are millions. What a kind holds is its body, as it stands on the wire; the
-- head is the same for all: crop and sample inside the unit (0: the unit as a whole), day and round, when it was done and when it
-- was entered (microseconds since 1970, UTC), by whom, with what, and the count of the trial's records at which it was last
-- written. The rows of the tables that it stands for are brought over by `upgrade.rs`, which counts them before and after.
CREATE TABLE record (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    kind TEXT NOT NULL,
    -- What a later one corrects, beside unit, crop and sample. NULL: each stands by itself.
    place TEXT,
    -- NULL: the whole trial.
    unit_no INTEGER REFERENCES unit (no) ON DELETE CASCADE,
    crop INTEGER NOT NULL DEFAULT 0 CHECK (crop >= 0),
    sample INTEGER NOT NULL DEFAULT 0 CHECK (sample >= 0),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    instrument TEXT,
    version INTEGER NOT NULL DEFAULT 1,
    changed INTEGER NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE UNIQUE INDEX record_place ON record (trial_no, kind, place, coalesce(unit_no, 0), crop, sample)
    WHERE place IS NOT NULL;
CREATE INDEX record_by_trial ON record (trial_no, changed);
CREATE INDEX record_by_kind ON record (trial_no, kind);
CREATE INDEX record_by_unit ON record (unit_no, kind) WHERE unit_no IS NOT NULL;
