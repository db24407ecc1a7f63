-- +goose Up
-- Pages that begin or end in the middle of a job are few: they are found without reading
-- all pages of their code.
CREATE INDEX revisions_parts ON revisions (procedure_id) WHERE (header::jsonb -> 'begins') IS NOT NULL OR (header::jsonb -> 'ends') IS NOT NULL;

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
