-- What is recorded beside the primary measure; until now that was the height, for every trial.
CREATE TABLE also_measured (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    measure TEXT NOT NULL,
    PRIMARY KEY (trial_id, position)
) STRICT;
INSERT INTO also_measured (trial_id, position, measure) SELECT id, 0, 'height' FROM trial WHERE primary_measure <> 'height';
INSERT INTO also_measured (trial_id, position, measure) SELECT id, 0, 'harvest_weight' FROM trial WHERE primary_measure = 'height';
