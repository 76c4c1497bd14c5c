-- The day since sowing on which a unit was lost.
ALTER TABLE unit ADD COLUMN lost_day INTEGER CHECK (lost_day >= 0);
