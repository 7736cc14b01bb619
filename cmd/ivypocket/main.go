// Command ivypocket is the whole product in one binary: the web application,
// and rendering and checking from the command line.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"syscall"

	"github.com/spf13/cobra"

	"ivypocket/media/helper"
	"ivypocket/media/still"
	"ivypocket/store"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if exe, err := os.Executable(); err == nil {
		still.DecodeAside(exe, decodeCommandName)
	}
	err := root().ExecuteContext(ctx)
	if cerr := helper.Clean(); err == nil {
		err = cerr
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "ivypocket:", err)
		os.Exit(1)
	}
}

const decodeCommandName = "decode-picture"

// decodeCommand is how the program calls itself for pictures that take long.
func decodeCommand() *cobra.Command {
	return &cobra.Command{
		Use:    decodeCommandName + " WIDTH HEIGHT CMYK",
		Hidden: true,
		Args:   cobra.ExactArgs(3),
		RunE: func(c *cobra.Command, args []string) error {
			w, err1 := strconv.Atoi(args[0])
			h, err2 := strconv.Atoi(args[1])
			cmyk, err3 := strconv.ParseBool(args[2])
			if err := errors.Join(err1, err2, err3); err != nil {
				return err
			}
			return still.Aside(c.InOrStdin(), c.OutOrStdout(), w, h, cmyk)
		},
	}
}

func root() *cobra.Command {
	c := &cobra.Command{
		Use:   "ivypocket",
		Short: "Templates for moving pictures whose media can be swapped without breaking anything",
		Long: `Ivy Pocket builds and fills templates for moving pictures: split screens, cards,
reveals and transitions around pockets whose media anybody may swap.

  ivypocket demo      draws the demo, seeds it and serves the application
  ivypocket serve     serves the application
  ivypocket codes     makes, lists and withdraws access codes
  ivypocket render    makes a picture or a film from a template
  ivypocket check     says what is wrong with a template document
  ivypocket backup    copies everything into another folder
  ivypocket restore   puts a snapshot in the place of the database, or takes that back`,
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	c.PersistentFlags().String("data", defaultData(), "folder that everything is kept in")
	c.AddCommand(serveCommand(), demoCommand(), codesCommand(), renderCommand(), explainCommand(), checkCommand(), restoreCommand(), backupCommand(), openapiCommand(), schemaCommand(), referenceCommand(), decodeCommand())
	return c
}

// defaultData is where data is kept by the XDG Base Directory Specification.
func defaultData() string {
	if d := os.Getenv("IVYPOCKET_DATA"); d != "" {
		return d
	}
	if d := os.Getenv("XDG_DATA_HOME"); d != "" {
		return filepath.Join(d, "ivypocket")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "ivypocket-data"
	}
	return filepath.Join(home, ".local", "share", "ivypocket")
}

func dataFolder(c *cobra.Command) (string, error) {
	dir, err := c.Flags().GetString("data")
	if err != nil {
		return "", err
	}
	return filepath.Abs(dir)
}

func openStore(c *cobra.Command) (*store.Store, error) {
	dir, err := dataFolder(c)
	if err != nil {
		return nil, err
	}
	return store.Open(dir)
}
