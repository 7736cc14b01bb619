package still

// Scan runs every reader of headers over data.
func Scan(data []byte) {
	if f, err := scanPNG(data); err == nil {
		f.transform()
	}
	PNGMoves(data)
	profile(scanJPEG(data))
	orientation(data)
	_, _ = scanWebP(data)
	GIFMoves(data)
	tiffTags(data)
	_, _ = parsePAM(data, 1, 1)
}
