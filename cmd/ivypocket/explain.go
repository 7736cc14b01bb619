package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
	"ivypocket/media"
)

func explainCommand() *cobra.Command {
	var wish wish
	frame := int64(-1)
	c := &cobra.Command{
		Use:   "explain [TEMPLATE]",
		Short: "Say what is drawn in a frame",
		Long: `Prints the draw list of one frame as text: every item with its place, what is
inside what, masks and mattes, and the hash of all that an item draws. Two
frames that look alike have one address.`,
		Example: `  ivypocket explain four-winds --frame 30
  ivypocket explain split.json --media ./media --frame 12`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			in, err := wish.open(c, args)
			if err != nil {
				return err
			}
			defer in.store.Close()
			r, err := sheet.Resolve(in.doc, in.values)
			if err != nil {
				return err
			}
			lib := media.NewLibrary(in.store)
			defer lib.Close()
			sc, err := scene.Compile(r, in.format, lib)
			if err != nil {
				return err
			}
			px := scene.Size{W: in.width, H: in.height}
			if px.W == 0 {
				px = scene.Size{W: int(sc.Canvas().W), H: int(sc.Canvas().H)}
			}
			if frame < 0 {
				frame = int64(sc.Poster())
			}
			if frame >= sc.Frames() {
				return fmt.Errorf("frame: %d is not one of the piece's %d frames", frame, sc.Frames())
			}
			var l scene.List
			now := sc.Time().At(timing.OutputFrame(frame))
			sc.At(&l, now, px)
			fmt.Fprintf(c.OutOrStdout(), "%s, %s, frame %d (%s), template time %s\n", in.doc.Name, in.format, frame, r.Doc.Seen().Timecode(frame), now.Template)
			return l.Explain(c.OutOrStdout())
		},
	}
	f := c.Flags()
	wish.flags(f)
	f.Int64Var(&frame, "frame", -1, "frame, counted from 0 (default: the poster)")
	return c
}
