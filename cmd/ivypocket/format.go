package main

import (
	"encoding/json"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"ivypocket/core/craft"
	"ivypocket/core/scheme"
	"ivypocket/core/template"
	"ivypocket/server"
)

func schemaCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "schema",
		Short: "Print the JSON Schema of template documents",
		Long: `Prints the JSON Schema (draft 2020-12) of template documents, for editors and other
programs. It tells members, kinds and limits; what hangs together, ivypocket check tells.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			enc := json.NewEncoder(c.OutOrStdout())
			enc.SetIndent("", "  ")
			enc.SetEscapeHTML(false)
			return enc.Encode(template.JSONSchema())
		},
	}
}

func referenceCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "reference PAGE",
		Short:  "Print a page with its tables of members as the program has them",
		Hidden: true,
		Args:   cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			b, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			var rights string
			err = described(func(srv *server.Server) error {
				rights = srv.Rights()
				return nil
			})
			if err != nil {
				return err
			}
			page, err := scheme.Reference(string(b), map[string]string{"acts": craft.Reference(), "rights": rights})
			if err == nil {
				_, err = fmt.Fprint(c.OutOrStdout(), page)
			}
			return err
		},
	}
}
