package main

import (
	"fmt"
	"time"

	"github.com/spf13/cobra"

	"ivypocket/store"
)

func restoreCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "restore [SNAPSHOT]",
		Short: "Put a snapshot in the place of the database",
		Long: `While the application is served, snapshots of the database are taken at the start
and every few hours in which something changed. Without a name, this lists them;
with a name, or "latest" for the newest that is sound, it puts one in the place
of the database. The database that was there is kept in a folder beside it, and
media files stay as they are. No server may be working on the folder.`,
		Example: `  ivypocket restore
  ivypocket restore latest`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			dir, err := dataFolder(c)
			if err != nil {
				return err
			}
			if len(args) == 0 {
				list, err := store.Snapshots(dir)
				if err == nil && len(list) == 0 {
					fmt.Fprintf(c.OutOrStdout(), "There is no snapshot in %s yet.\n", dir)
				}
				for _, s := range list {
					fmt.Fprintf(c.OutOrStdout(), "%s  %s  %d kB\n", s.Name, s.At.Local().Format(time.DateTime), s.Bytes>>10)
				}
				return err
			}
			return locked(c, func(*store.Lock) error {
				taken, kept, err := store.Restore(c.Context(), dir, args[0])
				if err != nil {
					return err
				}
				fmt.Fprintf(c.OutOrStdout(), "The database is that of %s again. The one before is kept in %s.\n", taken.At.Local().Format(time.DateTime), kept)
				return nil
			})
		},
	}
}
