-- How the treatments are dealt over the rack; what was dealt before was dealt inside levels.
ALTER TABLE trial ADD COLUMN rack_design TEXT NOT NULL DEFAULT 'blocks'
    CHECK (rack_design IN ('blocks', 'completely_randomised', 'pairs', 'latin_square'));
