// Package limits is the one place where it is set how large a file may be that
// comes in. Each room reads its own from here.
package limits

// Pictures.
const (
	PictureBytes  = 256 << 20
	PictureSide   = 30000 // px
	PicturePixels = 100_000_000
	VectorBytes   = 8 << 20
	VectorDepth   = 64 // of nested elements
	VectorNodes   = 200_000
	ProfileBytes  = 8 << 20 // of a colour profile; those of presses reach a few megabytes
	// PictureScans bounds the passes of a progressive JPEG. Encoders make about
	// ten, and each costs as much time as decoding the whole picture once.
	PictureScans = 100
)

// Clips.
const (
	ClipBytes  = 64 << 30
	ClipSide   = 8192 // px
	ClipPixels = 8192 * 4320
	ClipFrames = 12 * 60 * 60 * 60 // twelve hours at 60 frames a second
	ClipTracks = 32
	// ClipNote bounds one text that a clip carries with it, such as a comment:
	// ffmpeg's time for reading one may grow with the square of its length.
	ClipNote = 256 << 10
)

// Numbered pictures: from the first number to the last.
const SequenceFrames = 40_000

// Sound.
const (
	SoundBytes   = 8 << 30
	SoundSeconds = 12 * 60 * 60
)
