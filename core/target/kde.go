package target

// FindKDEWriter is a line of shell that finds the program which writes KDE's settings, in
// Plasma 6 or in 5. The lines behind it call it by KDEWriter.
const (
	FindKDEWriter = "kde=$(command -v kwriteconfig6 || command -v kwriteconfig5)"
	KDEWriter     = `"$kde"`
)
