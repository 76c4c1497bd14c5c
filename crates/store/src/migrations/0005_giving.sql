-- What each unit got of the water or the solution, where it was measured; and why work was left out, where it was.
ALTER TABLE job_done ADD COLUMN ml_a_unit REAL CHECK (ml_a_unit > 0);
ALTER TABLE job_done ADD COLUMN skipped TEXT CHECK (length(skipped) > 0);

-- What was given to single units and treatments, or withheld from them. A round for all is a row of job_done.
CREATE TABLE giving (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    job TEXT NOT NULL CHECK (job IN ('water', 'feed', 'apply')),
    -- One unit, or all of a treatment, or with neither all of the trial.
    unit_no INTEGER REFERENCES unit (no) ON DELETE CASCADE,
    treatment INTEGER CHECK (treatment >= 0),
    -- As the plan has it; something of its own, as JSON; or nothing, with the reason.
    gift TEXT NOT NULL CHECK (gift IN ('as_planned', 'own', 'withheld')),
    portion TEXT CHECK (json_valid(portion)),
    why TEXT,
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL,
    CHECK (unit_no IS NULL OR treatment IS NULL),
    CHECK ((gift = 'own') = (portion IS NOT NULL)),
    CHECK ((gift = 'withheld') = (why IS NOT NULL))
) STRICT;
CREATE INDEX giving_by_trial ON giving (trial_no, changed);

-- When the owner gave out which jug goes to which codes, so that others feed without the key.
ALTER TABLE trial ADD COLUMN jugs_given_out_at_us INTEGER;
