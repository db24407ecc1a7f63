-- +goose Up
-- What came of the mistakes that were made on a page, kept for lists: worked out again
-- whenever it is missing.
CREATE TABLE drills (
    revision_id bigint PRIMARY KEY REFERENCES revisions (id),
    version     bigint NOT NULL,
    sheet_id    bigint NOT NULL,
    edition     text NOT NULL,
    caught      int NOT NULL,
    made        int NOT NULL,
    missed      int NOT NULL,
    accepted    int NOT NULL
);

-- +goose Down
DROP TABLE drills;
