package proof_test

import (
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"

	"leitstand/core/compile"
	"leitstand/examples"
)

// Every line of every compiled file of the example is dropped and, in a second
// run, changed: what is noticed is counted, and what is not must be known to mean
// nothing.
func TestMutationsAreNoticed(t *testing.T) {
	noticed, all, bytes, binary := 0, 0, 0, 0
	for _, b := range append(build(t, string(examples.TideOffice)), build(t, everyMechanism)...) {
		files := filesOf(b)
		for path, f := range files {
			if path == "STEPS.md" || path == "machine.json" || strings.HasSuffix(path, ".lnk") ||
				strings.HasSuffix(
					path,
					".reg",
				) || strings.HasSuffix(path, ".dll") || strings.HasSuffix(path, ".wflow") || path == "check.sh" {
				// For people, or not made of lines; the binary files are below. Of a workflow, most is what
				// Automator wants of every one.
				continue
			}
			lines := strings.SplitAfter(string(f.Data), "\n")
			for i, line := range lines {
				if strings.TrimSpace(line) == "" {
					continue
				}
				for what, instead := range map[string]string{"lose": "", "have changed": changed(line)} {
					all++
					mutant := slices.Clone(lines)
					mutant[i] = instead
					if mutationNoticed(t, b, files, path, strings.Join(mutant, "")) {
						noticed++
						continue
					}
					known := isComment(path, line) ||
						slices.ContainsFunc(
							meaningless,
							func(m struct{ part, why string }) bool { return strings.Contains(line, m.part) },
						)
					assert.True(
						t, known, "%s of %s may %s the line %q unnoticed (%q)", path, b.Machine.Name, what, line,
						instead,
					)
				}
			}
		}
		// Of binary files every byte is changed, of libraries some.
		for path, f := range files {
			step := 1
			switch {
			case strings.HasSuffix(path, ".dll"):
				step = 97
			case !strings.HasSuffix(path, ".lnk") && !strings.HasSuffix(path, ".reg"):
				continue
			}
			for i := 0; i < len(f.Data); i += step {
				binary++
				mutant := slices.Clone(f.Data)
				mutant[i] ^= 0x41
				if mutationNoticed(t, b, files, path, string(mutant)) {
					bytes++
				}
			}
		}
	}
	t.Logf(
		"%d of %d mutations of lines noticed (%.1f %%), the others known to mean nothing", noticed, all,
		100*float64(noticed)/float64(all),
	)
	t.Logf(
		"%d of %d changes of bytes noticed (%.1f %%); the rest of a link is for readers that we are not", bytes,
		binary, 100*float64(bytes)/float64(binary),
	)
	assert.Greater(t, noticed, all*6/10)
	assert.Greater(t, bytes, binary*3/10)
}

// isComment says whether a line is a comment by the rules of its file's format.
func isComment(path, line string) bool {
	line = strings.TrimSpace(line)
	if strings.HasPrefix(path, "xkb/") && path != "xkb/load-keymaps" && !strings.HasSuffix(path, ".desktop") {
		return strings.HasPrefix(line, "//")
	}
	return strings.HasPrefix(line, "#") || strings.HasPrefix(line, "<!--") || strings.HasPrefix(line, ";")
}

// changed is a line with its last letter or digit another.
func changed(line string) string {
	i := strings.LastIndexFunc(line, func(r rune) bool {
		return r >= '0' && r <= '9' || r >= 'a' && r <= 'z' ||
			r >= 'A' && r <= 'Z'
	})
	if i < 0 {
		return "x" + line
	}
	other := map[bool]byte{true: '8', false: 'q'}[line[i] >= '0' && line[i] <= '9']
	if line[i] == other {
		other++
	}
	return line[:i] + string(other) + line[i+1:]
}

func mutationNoticed(t *testing.T, b *compile.Build, files fstest.MapFS, path, text string) bool {
	t.Helper()
	mutant := fstest.MapFS{}
	for p, f := range files {
		mutant[p] = f
	}
	mutant[path] = &fstest.MapFile{Data: []byte(text)}
	return wrong(b, mutant)
}

// meaningless are the lines of the example's files that change nothing when they
// are dropped or changed, and why.
var meaningless = []struct{ part, why string }{
	{"name='Leitstand ", "what a panel calls a shortcut"},
	{"Description=", "what systemd calls a unit"},
	{"RemainAfterExit=", "whether a unit that has ended counts as running"},
	{"partial modifier_keys", "flags that only choose a section when none is named"},
	{"Name=", "the name of a desktop file, for people"},
	{"Comment=", "as above"},
	{"NoDisplay=", "whether menus show a desktop file"},
	{"StartupNotify=", "whether a desktop file's program has a pointer that waits"},
	{"X-GNOME-Autostart-Phase=", "when a session starts it, at the beginning or a little later"},
	{"xkb_geometry", "the picture of a board"},
	{"include \"evdev+aliases", "names of letters' keys that no symbols of ours use"},
	{"level_name[", "a name for people"},
	{"Lock] = ", "no key of the machine that has it locks capitals"},
	{"<?xml", "the XML declaration, which has defaults"},
	{"<!DOCTYPE", "as above"},
	{"<plist", "the library reads a property list without it; a second parser is asked in the mechanism's tests"},
	{"</plist", "as above"},
	{"<integer>65535</integer>", "the character of a shortcut of macOS, which goes by its keycode"},
	{"{\n", "the library reads the old form of property lists without its first brace"},
	{`include "%L"`, "whether the language's own sequences stand beside ours, which a user's file may say otherwise"},
	{",none,", "the third field of a shortcut, which is for people"},
	{"value=\"xfwm4\"", "the other provider of shortcuts, whose settings are not ours"},
}
