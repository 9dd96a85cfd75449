-- Groups of outputs driven at once: their measured loads, their watts, and which output is of which.
ALTER TABLE run ADD COLUMN group_loads_measured_ohm TEXT;
ALTER TABLE rung ADD COLUMN group_loads_measured_ohm TEXT;
ALTER TABLE claim ADD COLUMN group_power_w TEXT;
ALTER TABLE reading ADD COLUMN output_group INTEGER;
