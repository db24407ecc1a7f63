-- +goose Up
-- Engine codes are put into order by what was found on them: read from the card once, when
-- it is written, and not from the text of every card when somebody sorts.
ALTER TABLE sheet_standings
    ADD COLUMN blocking int NOT NULL GENERATED ALWAYS AS (coalesce((card::jsonb ->> 'blocking')::int, 0)) STORED,
    ADD COLUMN findings int NOT NULL GENERATED ALWAYS AS (coalesce((card::jsonb ->> 'findings')::int, 0)) STORED,
    -- Small letters once: comparing without case folds every letter of every card.
    ADD COLUMN words text NOT NULL GENERATED ALWAYS AS (lower(card)) STORED;
