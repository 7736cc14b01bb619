package still

import "bytes"

// Read is how files are held in memory.
var Read = read

// ReadBytes is how much of them at one time.
const ReadBytes = readBytes

// Scan runs every reader of headers over data.
func Scan(data []byte) {
	if f, err := scanPNG(data); err == nil {
		f.transform()
	}
	PNGMoves(bytes.NewReader(data), int64(len(data)))
	profile(scanJPEG(data).profile)
	_, _ = scanWebP(data)
	GIFMoves(bytes.NewReader(data))
	tiffTags(data)
	_, _ = parsePAM(data, 1, 1)
}
