package compose_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/compose"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// entry is a window with a field to type into, for GTK.
const entry = `<interface><object class="GtkWindow" id="w"><property name="title">note</property><child><object class="GtkEntry" id="e">
<property name="visible">1</property></object></child></object></interface>`

// Programs of Xlib, GTK and Qt are given the texts of single keys and of abbreviations
// after a Compose key, beside what is typed anyhow, when the steps have put them
// into a file that has something of the user's own, and can be taken out of it.
func TestPressedInPrograms(t *testing.T) {
	realtest.Pressed(t, "compose", "Xlib", "texts of single keys and of abbreviations typed into a program")
	realtest.Pressed(t, "compose", "GTK", "texts of single keys and of abbreviations typed into a program")
	realtest.Pressed(t, "compose", "Qt", "texts of single keys and of abbreviations typed into a program")
	realtest.Need(t, "xterm", "xterm")
	realtest.Need(t, "gtk-builder-tool", "libgtk-3-bin")
	realtest.Need(t, "kdialog", "kdialog")
	realtest.Need(t, "xclip", "xclip")
	m := machine("de")
	m.Session, m.Compose = "x11", true
	const single, abbreviated = `Süderhaff 3 "north" \ %s $HOME`, "tide office"
	list := []mechanism.Binding{snippet(0, "F7", single), abbreviation("sh3", abbreviated)}
	for _, b := range list {
		require.Equal(t, mechanism.Limited, compose.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	out, err := mechanism.Write(compose.Mechanism{}, m, list)
	require.NoError(t, err)
	layout, err := mechanism.Write(
		xkb.Mechanism{},
		m,
		[]mechanism.Binding{
			{Chord: keys.Chord{Key: sample.Key("Pause")}, Effect: behaviour.Effect{Kind: behaviour.Composes}},
		},
	)
	require.NoError(t, err)
	for _, c := range []struct {
		program, start, class string
		clear, copy           []string // the chords that empty a field, and bring it to the clipboard
	}{
		{"xterm", `exec xterm -e sh -c 'stty raw -echo; exec cat > "$HOME/typed"'`, "XTerm", nil, nil},
		{"GTK", `exec gtk-builder-tool preview "$HOME/entry.ui"`, "gtk-builder-tool", []string{"ControlLeft+KeyA", "Backspace"}, []string{"ControlLeft+KeyA", "ControlLeft+KeyC"}},
		{"Qt", `exec kdialog --inputbox note`, "kdialog", []string{"ControlLeft+KeyA", "Backspace"}, []string{"ControlLeft+KeyA", "ControlLeft+KeyC"}},
	} {
		t.Run(c.program, func(t *testing.T) {
			server := realtest.XServer(t)
			home, env := realtest.Home(t)
			put := func(name string, data []byte) {
				path := filepath.Join(home, name)
				require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
				require.NoError(t, os.WriteFile(path, data, 0o644))
			}
			put("entry.ui", []byte(entry))
			put(out.Files()[0].Path, out.Files()[0].Data)
			const own = "include \"%L\"\n<F8> : \"own\"" // and no line end
			put(".XCompose", []byte(own))
			for range 2 { // which may be done again
				step(t, home, env, out.Steps()[0])
			}
			t.Cleanup(func() {
				step(t, home, env, out.Back()[0])
				left, err := os.ReadFile(filepath.Join(home, ".XCompose"))
				require.NoError(t, err)
				assert.Equal(t, own+"\n", string(left))
			})
			put("keymap.xkb", layout.Files()[0].Data)
			server.LoadKeymap(filepath.Join(home, "keymap.xkb"))
			server.Session(env, c.start)
			realtest.WaitFor(t, "the window", func() bool {
				return server.Window(c.class).Width > 0 &&
					server.Output(
						"sh",
						"-c",
						"xdotool windowfocus --sync $(xdotool search --onlyvisible --class "+c.class+" | tail -n 1) && echo done",
					) != ""
			})
			press := func(chords ...string) {
				for _, chord := range chords {
					var codes []int
					for k := range strings.SplitSeq(chord, "+") {
						codes = append(codes, sample.Evdev(sample.Key(k)))
					}
					server.Tap(codes...)
				}
				time.Sleep(time.Second / 4)
			}
			typed := func() string {
				if c.copy == nil {
					text, _ := os.ReadFile(filepath.Join(home, "typed"))
					return string(text)
				}
				press(c.copy...)
				return server.Output("xclip", "-o", "-selection", "clipboard")
			}
			if c.clear == nil {
				realtest.WaitFor(
					t, "the terminal's program",
					func() bool { _, err := os.Stat(filepath.Join(home, "typed")); return err == nil },
				)
			}
			const want = "a" + single + "y" + abbreviated + "ownb"
			got := ""
			realtest.WaitFor(
				t,
				"what is typed",
				func() bool { // a window that has just come may not take the first keys
					if c.clear != nil || got == "" {
						press(c.clear...)
						press("KeyA", "F7", "KeyZ", "Pause", "KeyS", "KeyH", "Digit3", "F8", "KeyB")
					}
					got = typed()
					return got == want || c.clear == nil && len(got) >= len(want)
				},
			)
			assert.Equal(t, want, got)
		})
	}
}

// step does what a step says, in the folder of the compiled files.
func step(t *testing.T, home string, env []string, s mechanism.Step) {
	cmd := exec.Command("sh", "-e", "-c", strings.Join(s.Lines, "\n"))
	cmd.Dir, cmd.Env = home, append(os.Environ(), env...)
	said, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s", said)
	require.Empty(t, string(said))
}
