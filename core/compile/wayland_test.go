package compile_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// codes are the event codes of keys.
func codes(names ...string) (list []int) {
	for _, n := range names {
		list = append(list, sample.Evdev(sample.Key(n)))
	}
	return list
}

// window is a window of a Wayland session that says what it is given.
type window struct{ *realtest.Background }

// openWindow opens a window and has it take the keyboard. GNOME begins in its overview,
// which Escape leaves.
func openWindow(t *testing.T, s *realtest.Session) window {
	t.Helper()
	w := window{s.Start("exec stdbuf -oL wev")}
	s.TapUntil("a window with the keyboard", func() bool { return strings.Contains(w.Output(), "sym: Escape") }, codes("Escape")...)
	return w
}

// seen is what a window sees of keys that are held one after the other.
type seen struct {
	chord []string
	syms  []string
	mods  string // those that are down at last, "" for none
}

var (
	symPressed = regexp.MustCompile(`state: 1 \(pressed\)\n\s*sym: (\w+)`)
	modsHeld   = regexp.MustCompile(`depressed: [0-9A-F]{8}: (.*\w)`)
)

func (w window) sees(t *testing.T, s *realtest.Session, want seen) {
	t.Helper()
	from := len(w.Output())
	s.Tap(codes(want.chord...)...)
	var syms []string
	realtest.WaitFor(t, strings.Join(want.chord, "+"), func() bool {
		syms = nil
		for _, f := range symPressed.FindAllStringSubmatch(w.Output()[from:], -1) {
			syms = append(syms, f[1])
		}
		return len(syms) >= len(want.syms)
	})
	assert.Equal(t, want.syms, syms)
	mods := ""
	for _, f := range modsHeld.FindAllStringSubmatch(w.Output()[from:], -1) {
		mods = f[1]
	}
	assert.Equal(t, want.mods, mods, "%v", want.chord)
}
