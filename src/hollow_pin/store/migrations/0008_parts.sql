CREATE TABLE part (                        -- what lies on the shelf, or may
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  kind TEXT NOT NULL,
  footprint TEXT NOT NULL DEFAULT '',
  ohms REAL,
  tolerance REAL,
  sensor TEXT NOT NULL DEFAULT '',
  place TEXT NOT NULL DEFAULT '',
  price REAL,
  reorder_at INTEGER NOT NULL DEFAULT 0,
  note TEXT NOT NULL DEFAULT '',
  revision INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE INDEX part_by_name ON part (name COLLATE NOCASE, id);

CREATE TABLE part_order (
  id INTEGER PRIMARY KEY,
  source TEXT NOT NULL,
  ordered_at TEXT NOT NULL,
  expected_on TEXT NOT NULL DEFAULT '',    -- a date, or empty
  note TEXT NOT NULL DEFAULT '',
  came_at TEXT,                            -- when the first of it came
  closed_at TEXT                           -- when all of it had come, or no more was awaited
) STRICT;
CREATE INDEX part_order_open ON part_order (id) WHERE closed_at IS NULL;
CREATE INDEX part_order_by_source ON part_order (source);

CREATE TABLE order_line (
  id INTEGER PRIMARY KEY,
  order_id INTEGER NOT NULL REFERENCES part_order (id),
  part_id INTEGER NOT NULL REFERENCES part (id),
  count INTEGER NOT NULL CHECK (count > 0),
  price REAL,
  job_id INTEGER REFERENCES job (id)       -- that waits for it
) STRICT;
CREATE INDEX order_line_by_order ON order_line (order_id);
CREATE INDEX order_line_by_part ON order_line (part_id);

CREATE TABLE movement (                    -- only ever added to; a count is a sum of these
  id INTEGER PRIMARY KEY,
  part_id INTEGER NOT NULL REFERENCES part (id),
  at TEXT NOT NULL,
  role TEXT NOT NULL DEFAULT '',
  kind TEXT NOT NULL,
  count INTEGER NOT NULL CHECK (count <> 0),
  hand INTEGER NOT NULL,                   -- what it adds to how many lie there
  held INTEGER NOT NULL,                   -- and to how many of these are reserved
  hand_after INTEGER NOT NULL CHECK (hand_after >= 0),
  held_after INTEGER NOT NULL CHECK (held_after >= 0 AND held_after <= hand_after),
  lot TEXT NOT NULL DEFAULT '',
  job_id INTEGER REFERENCES job (id),
  work_id INTEGER REFERENCES work (id),
  line_id INTEGER REFERENCES order_line (id),
  reason TEXT NOT NULL DEFAULT '',
  undoes INTEGER UNIQUE REFERENCES movement (id)
) STRICT;
CREATE INDEX movement_by_part ON movement (part_id, id);
CREATE INDEX movement_by_job ON movement (job_id, part_id) WHERE job_id IS NOT NULL;
CREATE INDEX movement_by_lot ON movement (lot, part_id) WHERE lot <> '';
CREATE INDEX movement_by_line ON movement (line_id) WHERE line_id IS NOT NULL;
CREATE INDEX movement_by_work ON movement (work_id) WHERE work_id IS NOT NULL;

CREATE TRIGGER movement_stays BEFORE UPDATE ON movement
BEGIN SELECT raise(ABORT, 'a movement is never changed: undo it by another'); END;
CREATE TRIGGER movement_remains BEFORE DELETE ON movement
BEGIN SELECT raise(ABORT, 'a movement is never removed: undo it by another'); END;

-- The holes that the modules of the models that come with it fit, by this shop's own word.
UPDATE model SET sticks = json_set(sticks, '$[0].footprint', 'P-14', '$[1].footprint', 'P-14')
WHERE id = 'plover' AND json_array_length(sticks) = 2;
UPDATE model SET sticks = json_set(sticks, '$[0].footprint', 'R-8 ribbon')
WHERE id = 'dunlin' AND json_array_length(sticks) = 1;
UPDATE model SET sticks = json_set(sticks, '$[0].footprint', 'T-3 rotary')
WHERE id = 'turnstone' AND json_array_length(sticks) = 1;
UPDATE model SET sticks = json_set(sticks, '$[0].footprint', 'S-22')
WHERE id = 'skua' AND json_array_length(sticks) = 1;
