package formula

// Example is a formula to begin from. Where one does not suit what is wanted, by its kind or
// its unit, it is not offered.
type Example struct {
	Name string
	Text string
	Of   Unit // what it counts
}

// Examples are in the order in which they are offered.
var Examples = []Example{
	{"Grows with the time", "time.share", Number},
	{"Fades in and out over 20 frames", "clamp(min(time.frames, time.frames / time.share - time.frames) / 20, 0, 1)", Number},
	{"Softly in during the first second", "smoothstep(0, 1, time.seconds)", Number},
	{"Beats once a second", "1 + 0.1 * abs(sin(time.seconds * 180))", Number},
	{"To and fro, 20 px each way, in two seconds", "sin(time.seconds * 180) * 20", Px},
	{"To and fro, 8 degrees each way, in two seconds", "sin(time.seconds * 180) * 8", Degrees},
	{"Turns on and on, 30 degrees a second", "time.seconds * 30", Degrees},
	{"As wide as the canvas", "canvas.w", Px},
	{"A third of the canvas' height", "canvas.h / 3", Px},
	{"As large as the shorter side of the canvas", "min(canvas.w, canvas.h)", Px},
	{"Only in the second half", "time.share < 0.5", Number},
	{"One word early, another late", "time.share < 0.5 ? 'normal' : 'multiply'", Number},
}
