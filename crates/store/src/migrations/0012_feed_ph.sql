-- pH to which the water of all treatments is brought, and the bottle that does it, as JSON; null for as it comes.
ALTER TABLE trial ADD COLUMN feed_ph TEXT NOT NULL DEFAULT 'null';
