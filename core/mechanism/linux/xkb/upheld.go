package xkb

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
	"leitstand/core/mechanism/linux/xkb/lexer"
)

// What bindings say is worth nothing where the files do not count that hold them up: rules
// that bring an option in, layouts that a keymap is of, a program that loads it. All of them
// are read, and what is missing or another is an error.

// upheldByRules reads the rules that make the options of sections known.
func upheldByRules(fsys fs.FS, sections []string) error {
	const file = "xkb/rules/evdev"
	text, err := fs.ReadFile(fsys, file)
	if err != nil {
		return fmt.Errorf("nothing brings the option in: %w", err)
	}
	stock, head := false, ""
	found := map[string]string{}
	for line := range strings.Lines(string(text)) {
		line, _, _ = strings.Cut(line, "//")
		f := strings.Fields(line)
		switch {
		case len(f) == 3 && f[0] == "!" && f[1] == "include" && f[2] == "%S/evdev":
			stock = true
		case len(f) > 0 && f[0] == "!":
			head = strings.Join(f[1:], " ")
		case len(f) == 3 && f[1] == "=" && head == "option = symbols":
			found[f[0]] = f[2]
		}
	}
	if !stock {
		return fmt.Errorf("%s: the system's own rules are not included, so that there is no layout", file)
	}
	for _, name := range sections {
		if found["leitstand:"+name] != "+leitstand("+name+")" {
			return fmt.Errorf("%s: the option leitstand:%s brings no symbols in", file, name)
		}
	}
	return nil
}

// upheldByIncludes reads what a keymap is made on top of: xkeyboard-config's keycodes, types
// and interpretations, and the machine's layouts and options.
func upheldByIncludes(m *mechanism.Machine, file, text string) error {
	c := lexer.Open(file, text)
	section := ""
	included := map[string]string{}
	for c.Tok != lexer.EOF && c.Err == nil {
		if c.Tok != lexer.Ident {
			c.Step()
			continue
		}
		word := c.Word()
		if strings.HasPrefix(word, "xkb_") {
			section = word
		}
		if word == "include" && c.Tok == lexer.String {
			if included[section] = strings.Trim(c.Word(), `"`); section == "xkb_symbols" {
				break // the last of the sections that count
			}
		}
	}
	if c.Err != nil {
		return c.Err
	}
	for _, part := range []struct{ section, want string }{{"xkb_keycodes", "evdev"}, {"xkb_types", "complete"}, {"xkb_compat", "complete"}} {
		if got, _, _ := strings.Cut(included[part.section], "+"); got != part.want {
			return fmt.Errorf(
				"%s: %s includes %q and not xkeyboard-config's %q", file, part.section, included[part.section],
				part.want,
			)
		}
	}
	parts := strings.Split(included["xkb_symbols"], "+")
	want := []string{"pc"}
	for g, name := range m.Machine.Layouts {
		if g > 0 {
			name = fmt.Sprintf("%s:%d", name, g+1)
		}
		want = append(want, name)
	}
	want = append(want, "inet(evdev)")
	for _, o := range m.Layouts[0].Extra.Options {
		want = append(want, strings.Split(strings.TrimPrefix(o.Include, "+"), "+")...)
	}
	if !slices.Equal(parts, want) {
		return fmt.Errorf(
			"%s: the symbols are of %q, and the machine's layouts and options are %q", file, strings.Join(parts, "+"),
			strings.Join(want, "+"),
		)
	}
	return nil
}

// optionFiles are the files that say which options are on, where a machine has one of them, and
// what stands before and behind the options in it. A compiled folder has not all of them: some
// are one line, or one value, of files and stores that others own.
var optionFiles = []struct {
	file                    string
	forAll                  bool
	before, between, behind string
}{
	{
		"sway/config",
		false,
		"input type:keyboard xkb_options ",
		",",
		"\n",
	}, {"xkb/sway.conf", true, "input type:keyboard xkb_options ", ",", "\n"},
	{
		"xkb/options.dconf",
		false,
		"xkb-options=['",
		"', '",
		"']",
	}, {"xkb/50-leitstand-layout", true, "xkb-options=['", "', '", "']"},
	{"xkb/kxkbrc", false, "\nOptions=", ",", "\n"}, {"xkb/kxkbrc", true, "\nOptions=", ",", "\n"},
}

// upheldBySwitch reads whether the option for every board, and all of the machine's, are on.
func upheldBySwitch(m *mechanism.Machine, fsys fs.FS) error {
	for _, s := range optionFiles {
		data, err := fs.ReadFile(fsys, s.file)
		if err != nil || s.forAll != m.LayoutForAll {
			continue
		}
		_, rest, _ := strings.Cut("\n"+string(data)+"\n", s.before)
		rest, _, _ = strings.Cut(rest, s.behind)
		on := strings.Split(rest, s.between)
		for _, o := range append(slices.Clone(m.Options), "leitstand:mapping") {
			if !slices.Contains(on, o) {
				return fmt.Errorf("%s: the option %s is not on", s.file, o)
			}
		}
		if s.file == "xkb/kxkbrc" && !strings.Contains(string(data)+"\n", "\nResetOldOptions=true\n") {
			return fmt.Errorf("%s: Plasma leaves the options alone unless ResetOldOptions is true", s.file)
		}
	}
	return nil
}

// upheldByLine reads whether a configuration has a line that counts, if there is one to read.
func upheldByLine(fsys fs.FS, file, line string) error {
	text, err := fs.ReadFile(fsys, file)
	if err != nil || slices.Contains(strings.Split(string(text), "\n"), line) {
		return nil
	}
	return fmt.Errorf("%s: it lacks the line %s", file, line)
}

// keymapFolder is where the keymap must be for what loads it.
func keymapFolder(m *mechanism.Machine) string {
	if m.LayoutForAll {
		return "/etc/leitstand"
	}
	return "~/.config/leitstand"
}

// upheldByStart reads the file by which a session loads the keymap, and the script for several.
func upheldByStart(m *mechanism.Machine, fsys fs.FS, every bool, own []*machine.Board) error {
	if m.Desktop == "i3" {
		load := "xkbcomp -w0 " + keymapFolder(m) + "/keymap.xkb $DISPLAY"
		if len(own) > 0 {
			load = "sh " + keymapFolder(m) + "/load-keymaps"
		}
		config := "i3/config"
		if m.LayoutForAll {
			config = "xkb/etc-i3-config"
		}
		return errors.Join(
			upheldByLine(fsys, config, "exec --no-startup-id "+load), upheldByScript(m, fsys, every, own),
		)
	}
	const file = "xkb/leitstand-keymap.desktop"
	text, err := fs.ReadFile(fsys, file)
	if err != nil {
		return fmt.Errorf("nothing loads the keymap: %w", err)
	}
	entries := keyfile.Keys(string(text))
	entry := func(name string) string { return entries[[2]string{"Desktop Entry", name}] }
	program, needed := "xkbcomp", []string{"/keymap.xkb", "$DISPLAY"}
	if len(own) > 0 {
		program, needed = "load-keymaps", nil
	}
	exec := entry("Exec")
	if entry("Type") != "Application" || entry("Name") == "" || !strings.Contains(exec, program) {
		return fmt.Errorf("%s: it starts nothing that loads the keymap: %q", file, exec)
	}
	folder := keymapFolder(m)
	for _, n := range append(needed, folder[strings.LastIndex(folder, "/"):]) {
		if !strings.Contains(exec, n) {
			return fmt.Errorf("%s: %q does not name %s", file, exec, n)
		}
	}
	return upheldByScript(m, fsys, every, own)
}

// upheldByScript reads the script that loads several keymaps.
func upheldByScript(m *mechanism.Machine, fsys fs.FS, every bool, own []*machine.Board) error {
	if len(own) == 0 {
		return nil
	}
	script, err := fs.ReadFile(fsys, "xkb/load-keymaps")
	if err != nil {
		return fmt.Errorf("nothing loads the keymaps: %w", err)
	}
	skeleton := []string{`cd "$(dirname "$0")" || exit`}
	if every {
		skeleton = append(skeleton, `xkbcomp -w0 keymap.xkb "$DISPLAY" 2>/dev/null || { setxkbmap && xkbcomp -w0 keymap.xkb "$DISPLAY"; }`)
	}
	skeleton = append(
		skeleton,
		`for id in $(xinput list --id-only); do`,
		`case $(xinput list-props "$id" | sed -n 's/.*Device Product ID.*:[[:space:]]*//p') in`,
		`esac`,
		`done`,
	)
	var rest []string
	for line := range strings.Lines(string(script)) {
		if line = strings.TrimSpace(line); line != "" && line[0] != '#' && line[0] != '\'' {
			rest = append(rest, line)
		}
	}
	if !slices.Equal(rest, skeleton) {
		return fmt.Errorf("xkb/load-keymaps: it does not look at each device: %q", rest)
	}
	for _, b := range own {
		for _, id := range b.IDs {
			line := fmt.Sprintf("'%d, %d'", id.Vendor, id.Product)
			load := "xkbcomp -w0 -i \"$id\" " + called(m, b.Name) + ".xkb \"$DISPLAY\""
			if !slices.ContainsFunc(strings.Split(string(script), "\n"), func(l string) bool {
				return strings.Contains(l, line) &&
					strings.HasSuffix(l, ") "+load+" 2>/dev/null || { setxkbmap -device \"$id\" && "+load+"; } 2>/dev/null ;;")
			}) {
				return fmt.Errorf("xkb/load-keymaps: the keymap of board %s is not loaded for %s", b.Name, line)
			}
		}
	}
	return nil
}
