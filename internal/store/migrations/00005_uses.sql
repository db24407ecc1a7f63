-- +goose Up
-- More of a sheet is found now: its notes, looks and all its values.
DELETE FROM uses WHERE sheet_id IS NOT NULL;

-- +goose Down
DELETE FROM uses WHERE sheet_id IS NOT NULL;
