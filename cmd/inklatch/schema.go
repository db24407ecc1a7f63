package main

import (
	"encoding/json"

	"github.com/spf13/cobra"

	"inklatch/internal/format/latchjson"
)

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of latch files", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			enc := json.NewEncoder(cmd.OutOrStdout())
			enc.SetEscapeHTML(false)
			enc.SetIndent("", "  ")
			return enc.Encode(latchjson.Schema())
		},
	}
}
