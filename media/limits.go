// Package media is the room for pictures, vector art and footage from outside:
// what a file is, whether it may come in, its pixels, and frame n of a clip.
// Whatever comes from outside is hostile until it has been checked here.
package media

import "time"

// Limits of what comes in, set in one place.
const (
	MaxPictureBytes = 256 << 20
	MaxVectorBytes  = 8 << 20
	MaxClipBytes    = 8 << 30
	MaxSide         = 30000
	MaxPixels       = 100_000_000
	MaxClipPixels   = 4096 * 2304
	MaxClipFrames   = 3 * 60 * 60 * 60
	MaxTracks       = 16
	MaxVectorDepth  = 64
	MaxVectorNodes  = 200_000
)

// Bounds on helpers that run outside the process.
const (
	probeTime   = 20 * time.Second
	drawTime    = 20 * time.Second
	frameTime   = 30 * time.Second
	filmTime    = 12 * time.Hour // of the processor, for a clip decoded from end to end
	helperBytes = 4 << 30        // address space
)

// decodeBytes bounds the memory of all pictures being decoded at one time.
const decodeBytes = 1 << 30

// proxySide is the longer side of a clip's proxy.
const proxySide = 960
