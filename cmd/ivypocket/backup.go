package main

import (
	"fmt"

	"github.com/spf13/cobra"
)

func backupCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "backup FOLDER",
		Short: "Copy everything into another folder, while work goes on",
		Long: `Copies the database as it stands now, all media and all finished renders into a
folder, also while a server works on them. A folder with an older backup costs only
what changed since. What comes out is a data folder of its own: it can be served.`,
		Example: `  ivypocket backup /mnt/safe/ivypocket
  ivypocket --data /mnt/safe/ivypocket serve`,
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, err := openStore(c)
			if err != nil {
				return err
			}
			defer s.Close()
			files, bytes, err := s.Backup(c.Context(), args[0])
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s holds everything. %d files, %d kB, were new.\n", args[0], files, bytes>>10)
			return nil
		},
	}
}
