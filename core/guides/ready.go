package guides

import "slices"

const r95 = "r95"

// full is how much of an upright canvas of 9:16 is seen, across, on a screen of 9:19.5 that it
// fills from top to bottom.
const full = (9 / 19.5) / (9.0 / 16)

// Ready is the ready-made set of an id; nil is none.
func Ready(id string) *Set {
	all := ReadyMade()
	if i := slices.IndexFunc(all, func(s Set) bool { return s.ID == id }); i >= 0 {
		return &all[i]
	}
	return nil
}

// ReadyMade lists the sets that are there from the beginning. Safe areas are those of EBU
// R 95: 3.5 % from each edge for action, 5 % for graphics. The three feeds are our own: what
// feeds lay over a picture differs from one to the next and from one year to the next, so
// these stand for none, and are there to be adjusted.
func ReadyMade() []Set {
	zone := func(id, name string, k Kind, l, t, r, b float64) Mark {
		return Mark{ID: id, Name: name, Kind: k, Box: [4]float64{l, t, r, b}}
	}
	const own = "Furniture of no particular feed: adjust it to where the piece is shown."
	side := (1 - full) / 2
	return []Set{
		{ID: r95, Name: "Safe areas", About: "EBU R 95: action 3.5 %, graphics 5 % from each edge of a 16:9 picture.", Fade: 0.9, Marks: []Mark{
			zone("action", "Action", Safe, 0.035, 0.035, 0.965, 0.965),
			zone("graphics", "Graphics", Safe, 0.05, 0.05, 0.95, 0.95),
		}},
		{ID: "thirds", Name: "Thirds and middle", About: "Common practice.", Fade: 0.7, Marks: []Mark{
			{ID: "left", Name: "Left third", Kind: Upright, At: 1.0 / 3}, {ID: "right", Name: "Right third", Kind: Upright, At: 2.0 / 3},
			{ID: "upper", Name: "Upper third", Kind: Level, At: 1.0 / 3}, {ID: "lower", Name: "Lower third", Kind: Level, At: 2.0 / 3},
			{ID: "across", Name: "Middle, across", Kind: Upright, At: 0.5}, {ID: "down", Name: "Middle, down", Kind: Level, At: 0.5},
		}},
		{ID: "feed-tall", Name: "Tall feed", About: own, Shape: Tall, Fade: 0.9, Longest: 59, Marks: []Mark{
			zone("free", "Free of furniture", Safe, 0.06, 0.11, 0.84, 0.83),
			zone("sender", "Sender", Covered, 0.04, 0.045, 0.62, 0.095),
			zone("buttons", "Buttons", Covered, 0.86, 0.47, 0.985, 0.83),
			zone("caption", "Caption", Covered, 0.04, 0.845, 0.8, 0.935),
			zone("progress", "Progress", Covered, 0, 0.966, 1, 0.984),
		}},
		{ID: "feed-square", Name: "Square feed", About: own, Shape: Square, Fade: 0.9, Longest: 60, Marks: []Mark{
			zone("free", "Free of furniture", Safe, 0.05, 0.11, 0.95, 0.87),
			zone("tag", "Tag", Covered, 0.03, 0.03, 0.24, 0.09),
			zone("sound", "Sound", Covered, 0.88, 0.88, 0.97, 0.97),
			zone("dots", "Dots", Covered, 0.4, 0.945, 0.6, 0.975),
		}},
		{ID: "feed-full", Name: "Full-height feed", About: "A 9:16 picture over the whole height of a screen of 9:19.5, which cuts off its sides. " + own, Shape: Tall, Fade: 0.9, Longest: 59, Marks: []Mark{
			zone("free", "Free of furniture", Safe, side+0.03, 0.13, 1-side-0.03, 0.86),
			zone("cut-left", "Cut off", Covered, 0, 0, side, 1),
			zone("cut-right", "Cut off", Covered, 1-side, 0, 1, 1),
			zone("clock", "Clock", Covered, side, 0, 1-side, 0.045),
			zone("sender", "Sender", Covered, side+0.02, 0.06, 0.6, 0.11),
			zone("answer", "Answer", Covered, side+0.02, 0.89, 1-side-0.02, 0.955),
		}},
	}
}
