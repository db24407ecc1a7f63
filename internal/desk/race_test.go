package desk_test

import "os"

// raceSuite reports whether races are to be run as often as make race does.
func raceSuite() bool { return os.Getenv("INKLATCH_RACES") == "many" }
