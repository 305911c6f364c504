-- A photo may be of a step of an opening: how it looked before it came out.
ALTER TABLE photo ADD COLUMN opening_id INTEGER REFERENCES opening (id);
ALTER TABLE photo ADD COLUMN step TEXT NOT NULL DEFAULT '';   -- its id on the sheet
