-- Dropouts are held against a limit by the minute of holding. A model's own limit was for the
-- standard routine's four holds of three seconds, a fifth of a minute.
UPDATE model SET limits = json_remove(
  json_set(limits, '$."hold.dropouts_per_min"', json((
    SELECT json_group_object(key, 5.0 * value) FROM json_each(limits, '$."hold.dropouts"')
  ))),
  '$."hold.dropouts"'
)
WHERE json_type(limits, '$."hold.dropouts"') = 'object';

-- What a bench check found of the count says nothing of the rate: how long was held is not in it.
UPDATE study SET result = json_remove(result, '$."hold.dropouts"') WHERE result IS NOT NULL;
