-- More ways to deal. The list of designs stands in a CHECK, so the column is made anew.
ALTER TABLE trial ADD COLUMN rack_design_new TEXT NOT NULL DEFAULT 'blocks' CHECK (rack_design_new IN
    ('blocks', 'completely_randomised', 'pairs', 'latin_square', 'split_plot', 'swap_over', 'by_hand', 'by_size'));
UPDATE trial SET rack_design_new = rack_design;
ALTER TABLE trial DROP COLUMN rack_design;
ALTER TABLE trial RENAME COLUMN rack_design_new TO rack_design;
-- What the grow space is, and what its levels are called.
ALTER TABLE trial ADD COLUMN rack_kind TEXT NOT NULL DEFAULT 'rack'
    CHECK (rack_kind IN ('rack', 'buckets', 'bench', 'sill', 'sites'));
ALTER TABLE trial ADD COLUMN rack_names TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(rack_names));
-- What a site is like, for plots outdoors.
CREATE TABLE site_card (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    level INTEGER NOT NULL CHECK (level > 0),
    aspect TEXT NOT NULL,
    shade TEXT NOT NULL,
    before TEXT NOT NULL,
    grows_now TEXT NOT NULL,
    damage TEXT NOT NULL,
    PRIMARY KEY (trial_id, level)
) STRICT;
-- Light of each place, with what was measured it comes from.
CREATE TABLE slot_light (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    level INTEGER NOT NULL CHECK (level > 0),
    slot INTEGER NOT NULL CHECK (slot > 0),
    umol_per_m2_s REAL NOT NULL CHECK (umol_per_m2_s >= 0),
    measured REAL NOT NULL,
    scale TEXT NOT NULL CHECK (scale IN ('umol', 'lux')),
    light_kind TEXT NOT NULL,
    at TEXT NOT NULL,
    PRIMARY KEY (trial_id, level, slot)
) STRICT;
-- In a swap-over every round has a day 0 of its own; other trials have the one round.
CREATE TABLE round_begun (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    round INTEGER NOT NULL CHECK (round > 0),
    begun_on TEXT NOT NULL,
    PRIMARY KEY (trial_id, round)
) STRICT;
INSERT INTO round_begun (trial_id, round, begun_on) SELECT id, 1, sown_on FROM trial WHERE sown_on IS NOT NULL;
ALTER TABLE job_done ADD COLUMN round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0);
ALTER TABLE job_moved ADD COLUMN round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0);
ALTER TABLE note ADD COLUMN round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0);
-- What stands in each place before anything is done to it, and how far a deal may let treatments differ in it.
CREATE TABLE slot_start (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    level INTEGER NOT NULL CHECK (level > 0),
    slot INTEGER NOT NULL CHECK (slot > 0),
    -- In any one unit of the grower's: mm, g, leaves.
    size REAL NOT NULL CHECK (size > 0),
    at TEXT NOT NULL,
    PRIMARY KEY (trial_id, level, slot)
) STRICT;
ALTER TABLE trial ADD COLUMN rack_within_percent REAL CHECK (rack_within_percent > 0);
