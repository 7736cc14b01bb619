package main

import (
	"context"
	"fmt"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"ivypocket/access"
	"ivypocket/store"
)

func codesCommand() *cobra.Command {
	c := &cobra.Command{
		Use:   "codes",
		Short: "Make, list, name and withdraw access codes",
		Long: `Makes, lists, names and withdraws the access codes that people show where the
application is served to other machines. A designer's code lets everything be done, an
editor's lets templates be filled and own renders be made. Codes are kept as hashes: their
letters are told once. It works beside a running server, which heeds it at once.`,
	}
	with := func(do func(c *cobra.Command, s *store.Store, args []string) error) func(*cobra.Command, []string) error {
		return func(c *cobra.Command, args []string) error {
			s, err := openStore(c)
			if err != nil {
				return err
			}
			defer s.Close()
			return do(c, s, args)
		}
	}
	role := ""
	makeOne := &cobra.Command{
		Use: "make --role ROLE NAME", Short: "Make a code for somebody and print it", Args: cobra.ExactArgs(1),
		Example: `  ivypocket codes make --role editor "Ruan Teague"`,
		RunE: with(func(c *cobra.Command, s *store.Store, args []string) error {
			r, err := access.ParseRole(role)
			if err != nil {
				return fmt.Errorf("--%w", err)
			}
			code, letters, err := s.NewCode(c.Context(), args[0], r)
			if err != nil {
				return err
			}
			fmt.Fprintln(c.OutOrStdout(), letters)
			fmt.Fprintf(c.ErrOrStderr(), "This is the code of %s, %s. It is told this once.\n", code.Name, code.Role)
			return told(c.Context(), s, code.ID, "make-code", "Made a code for %s (%s)", code.Name, code.Role)
		}),
	}
	makeOne.Flags().StringVar(&role, "role", "", "designer or editor")
	list := &cobra.Command{
		Use: "list", Short: "List the codes", Args: cobra.NoArgs,
		RunE: with(func(c *cobra.Command, s *store.Store, _ []string) error {
			all, err := s.Codes(c.Context())
			if err != nil {
				return err
			}
			w := tabwriter.NewWriter(c.OutOrStdout(), 0, 0, 2, ' ', 0)
			fmt.Fprintln(w, "ID\tNAME\tROLE\tMADE\tLAST USED\tWITHDRAWN")
			for _, code := range all {
				fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\t%s\n", code.ID[:8], code.Name, code.Role, minute(code.Created), minute(code.Used), minute(code.Withdrawn))
			}
			return w.Flush()
		}),
	}
	name := &cobra.Command{
		Use: "name ID NAME", Short: "Say who a code is for", Args: cobra.ExactArgs(2),
		RunE: with(func(c *cobra.Command, s *store.Store, args []string) error {
			code, err := codeBy(c.Context(), s, args[0])
			if err == nil {
				err = s.NameCode(c.Context(), code.ID, args[1])
			}
			if err == nil {
				err = told(c.Context(), s, code.ID, "name-code", "Named a code %s", args[1])
			}
			return err
		}),
	}
	withdraw := &cobra.Command{
		Use: "withdraw ID", Short: "Make a code good for nothing, at once and for ever", Args: cobra.ExactArgs(1),
		RunE: with(func(c *cobra.Command, s *store.Store, args []string) error {
			code, err := codeBy(c.Context(), s, args[0])
			if err == nil {
				err = s.Withdraw(c.Context(), code.ID, false)
			}
			if err == nil {
				err = told(c.Context(), s, code.ID, "withdraw-code", "Withdrew the code of %s (%s)", code.Name, code.Role)
			}
			return err
		}),
	}
	c.AddCommand(makeOne, list, name, withdraw)
	return c
}

// codeBy finds a good code by its id, or by the first letters of it.
func codeBy(ctx context.Context, s *store.Store, id string) (store.Code, error) {
	all, err := s.Codes(ctx)
	if err != nil {
		return store.Code{}, err
	}
	var found []store.Code
	for _, c := range all {
		if c.Withdrawn == "" && id != "" && strings.HasPrefix(c.ID, id) {
			found = append(found, c)
		}
	}
	switch len(found) {
	case 1:
		return found[0], nil
	case 0:
		return store.Code{}, fmt.Errorf("%q: no code that is good begins so; ivypocket codes list shows them", id)
	}
	return store.Code{}, fmt.Errorf("%q: %d codes begin so; give more of the id", id, len(found))
}

func told(ctx context.Context, s *store.Store, subject, act, format string, args ...any) error {
	return s.Record(ctx, store.Deed{Name: "command line", Role: access.Designer, Act: act, Subject: subject, Said: fmt.Sprintf(format, args...)})
}

// minute is an instant of the store to the minute, or a dash for none.
func minute(at string) string {
	if len(at) < 16 {
		return "-"
	}
	return strings.Replace(at[:16], "T", " ", 1)
}
