package main

import (
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ivypocket/store"
)

func restoreCommand() *cobra.Command {
	var yes bool
	c := &cobra.Command{
		Use:   "restore [SNAPSHOT|latest|settle]",
		Short: "Put a snapshot in the place of the database, and take that back",
		Long: `While the application is served, snapshots of the database are taken at the start,
soon after the first work, every few hours in which something changed, and before
the database is brought up to date for a newer program. Without a name, this lists
them, and the databases that were replaced before; with a name, or "latest" for the
newest snapshot that is sound, it puts one in the place of the database. Where that
would miss something, it says what, and does it with --yes.

The database that was there is kept in a folder beside it and can be put back by
that folder's name. From then on no media file is removed, whichever database knows
it, until "restore settle" says that all is well, seven days later at the soonest.
No server may be working on the folder.`,
		Example: `  ivypocket restore
  ivypocket restore latest`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			dir, err := dataFolder(c)
			if err != nil {
				return err
			}
			out := c.OutOrStdout()
			if len(args) == 0 {
				return listCopies(c, dir)
			}
			return locked(c, func(*store.Lock) error {
				if args[0] == "settle" {
					if err := store.Settle(dir, time.Now()); err != nil {
						return err
					}
					fmt.Fprintln(out, "Files that no template, draft or piece knows are removed again.")
					return nil
				}
				now, readable := store.Contents(c.Context(), dir, "")
				then, sound := store.Contents(c.Context(), dir, args[0])
				if less := missing(now, then); readable && sound && less != "" && !yes {
					return fmt.Errorf("nothing was changed. With %s in its place you would miss what came since: it has %s. Say --yes to do it; it can be taken back", args[0], less)
				}
				taken, kept, err := store.Restore(c.Context(), dir, args[0])
				if err != nil {
					return err
				}
				fmt.Fprintf(out, "The database is that of %s again. The one before is kept in %s.\n", taken.At.Local().Format(time.DateTime), kept)
				fmt.Fprintf(out, "To take that back: ivypocket --data %s restore %s\n", dir, kept[strings.LastIndexByte(kept, '/')+1:])
				return nil
			})
		},
	}
	c.Flags().BoolVar(&yes, "yes", false, "also where the database has more than what takes its place")
	return c
}

// missing says of what a database has less than the one whose place it takes; "" is of nothing.
func missing(now, then store.Held) string {
	var out []string
	for _, n := range []struct {
		what      string
		then, now int
	}{{"templates", then.Templates, now.Templates}, {"releases", then.Releases, now.Releases}, {"drafts", then.Drafts, now.Drafts}, {"pieces", then.Pieces, now.Pieces}, {"media files", then.Media, now.Media}} {
		if n.then < n.now {
			out = append(out, fmt.Sprintf("%d %s; the database now has %d", n.then, n.what, n.now))
		}
	}
	return strings.Join(out, ", ")
}

func listCopies(c *cobra.Command, dir string) error {
	list, err := store.Snapshots(dir)
	if err != nil {
		return err
	}
	before, err := store.Replaced(dir)
	if err != nil {
		return err
	}
	out := c.OutOrStdout()
	if len(list) == 0 {
		fmt.Fprintf(out, "There is no snapshot in %s yet.\n", dir)
	}
	show := func(w io.Writer, s store.Snapshot) {
		said := "can't be read"
		if h, ok := store.Contents(c.Context(), dir, s.Name); ok {
			said = fmt.Sprintf("%d templates, %d drafts, %d pieces, %d media files", h.Templates, h.Drafts, h.Pieces, h.Media)
		}
		fmt.Fprintf(w, "%s  %s  %d kB  %s\n", s.Name, s.At.Local().Format(time.DateTime), s.Bytes>>10, said)
	}
	for _, s := range list {
		show(out, s)
	}
	if len(before) > 0 {
		fmt.Fprintln(out, "Replaced by a snapshot, and kept:")
	}
	for _, s := range before {
		show(out, s)
	}
	if since, held := store.HeldSince(dir); held {
		fmt.Fprintf(out, "Since %s no file is removed; ivypocket restore settle ends that when all is well.\n", since.Local().Format(time.DateTime))
	}
	return nil
}
