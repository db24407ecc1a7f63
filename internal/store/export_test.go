package store

// PartsQuery is looked at by a test.
const PartsQuery = partsQuery
