package compose

import (
	_ "embed"
	"strings"
	"sync"
)

// Of two sequences where one begins the other only the longer one counts, and the file holds
// those of the user's language as well.

//go:generate sh -c "go run ./gen /usr/share/X11/locale/en_US.UTF-8/Compose /usr/local/lib/leitstand-checkers/other/usr/share/X11/locale/en_US.UTF-8/Compose > begun.new && mv begun.new begun.txt"

// begunText has what begins a sequence of X11's own behind the Compose key, in UTF-8 locales.
//
//go:embed begun.txt
var begunText string

var begunWords = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for line := range strings.Lines(begunText) {
		words[strings.TrimSuffix(line, "\n")] = true
	}
	return words
})

// startsSequences says whether a keysym by itself begins sequences of X11's own.
func startsSequences(keysym string) bool {
	return keysym == "Multi_key" || strings.HasPrefix(keysym, "dead_")
}
