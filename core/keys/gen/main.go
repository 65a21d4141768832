// Command gen writes the embedded data of package keys: the characters of every
// layout we know, as xkeyboard-config defines them and xkbcli compiles them, and
// the keysyms with their Unicode characters, as the X headers list them; and the
// kernel's names of input event codes.
//
// What keys type on macOS and Windows is renewed where LEITSTAND_LAYOUTS names a table of it.
//
// It needs Debian's libxkbcommon-tools, xkb-data and x11proto-dev and linux-libc-dev. Run it with
// go generate ./core/keys.
package main

import (
	"bytes"
	"cmp"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"leitstand/core/keys"
)

func main() {
	log.SetFlags(0)
	dir := "data"
	if len(os.Args) > 1 {
		dir = os.Args[1]
	}
	if err := run(dir); err != nil {
		log.Fatal(err)
	}
}

func run(dir string) error {
	if table := os.Getenv("LEITSTAND_LAYOUTS"); table != "" {
		text, err := systems(table)
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(dir, "systems.txt"), text, 0o644); err != nil {
			return err
		}
	}
	syms, chars, err := keysyms("/usr/include/X11/keysymdef.h", "/usr/include/X11/XF86keysym.h")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "keysyms.txt"), syms, 0o644); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "characters.txt"), chars, 0o644); err != nil {
		return err
	}
	names, err := evdev("/usr/include/linux/input-event-codes.h")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "evdev.txt"), names, 0o644); err != nil {
		return err
	}
	base, err := compile("us")
	if err != nil {
		return err
	}
	var out bytes.Buffer
	fmt.Fprintf(&out, "# The keys of a board under each layout, from xkeyboard-config.\n")
	fmt.Fprintf(&out, "# What a layout defines is what it gives to a keymap that has another before it.\n")
	fmt.Fprintf(
		&out,
		"# KEY TYPE KEYSYM…, one for each level; a layout lists only what differs from us,\n# and a key that types "+
			"nothing with a dash; behind a tab, the\n# characters of its levels, ␀ for none. Behind says what a "+
			"key is otherwise there.\n",
	)
	for _, name := range layouts {
		got := base
		if name != "us" {
			if got, err = compile(name); err != nil {
				return err
			}
		}
		defined, behind, err := defines(name)
		if err != nil {
			return err
		}
		fmt.Fprintf(&out, "\nlayout %s\ndefines %s\n", name, strings.Join(defined, " "))
		for _, k := range keys.All() {
			x, ok := k.XKB()
			if !ok || got[x] == base[x] && name != "us" || got[x] == base[x] && got[x] == "" {
				continue
			}
			fmt.Fprintf(&out, "%s %s%s\n", x, cmp.Or(got[x], "-"), typed(k, got[x]))
		}
		for _, x := range defined {
			if behind[x] != got[x] {
				fmt.Fprintf(&out, "behind %s %s\n", x, behind[x])
			}
		}
	}
	if err := os.WriteFile(filepath.Join(dir, "layouts.txt"), out.Bytes(), 0o644); err != nil {
		return err
	}
	options, err := options("/usr/share/X11/xkb/rules/evdev")
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, "options.txt"), options, 0o644)
}

// stanzas compiles layouts and returns the text of each key by XKB name.
func stanzas(layouts, variants string) (map[string]string, error) {
	text, err := symbols(layouts, variants, "")
	if err != nil {
		return nil, err
	}
	got := map[string]string{}
	for _, stanza := range strings.Split(text, "key <")[1:] {
		key, rest, _ := strings.Cut(stanza, ">")
		got[key], _, _ = strings.Cut(rest, "};")
	}
	return got, nil
}

// symbols compiles layouts with options and returns the section of symbols.
func symbols(layouts, variants, options string) (string, error) {
	cmd := exec.Command(
		"xkbcli", "compile-keymap", "--rules", "evdev", "--model", "pc105", "--layout", layouts, "--variant",
		variants, "--options", options,
	)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	text, err := cmd.Output()
	if err != nil || stderr.Len() > 0 {
		return "", fmt.Errorf("layout %s(%s) with %s: %v: %s", layouts, variants, options, err, stderr.String())
	}
	_, text, ok := bytes.Cut(text, []byte("xkb_symbols"))
	if !ok {
		return "", fmt.Errorf("layout %s: no symbols in the compiled keymap", layouts)
	}
	return string(text), nil
}

// typed is what a key of the writing area types on each level, behind a tab; a level
// that types nothing has the sign for that.
func typed(k keys.Key, group string) string {
	syms := strings.Fields(group)
	if k.Section() != keys.Writing && k.String() != "Space" || len(syms) < 2 {
		return ""
	}
	text := "\t"
	for _, s := range syms[1:] {
		if r, ok := keys.KeysymRune(s); ok {
			text += string(r)
		} else {
			text += "␀"
		}
	}
	return text
}

// defines lists the keys that have a second group when the layout is the second, and what
// that group is.
func defines(name string) ([]string, map[string]string, error) {
	layout, variant := keys.SplitLayout(name)
	got, err := stanzas("us,"+layout, ","+variant)
	if err != nil {
		return nil, nil, err
	}
	var list []string
	behind := map[string]string{}
	for _, k := range keys.All() {
		if x, ok := k.XKB(); ok && strings.Contains(got[x], "[Group2]") {
			list = append(list, x)
			behind[x] = groupOf(got[x], "Group2")
		}
	}
	return list, behind, nil
}

// compile returns "TYPE KEYSYM…" by XKB key name.
func compile(name string) (map[string]string, error) {
	texts, err := stanzas(keys.SplitLayout(name))
	if err != nil {
		return nil, err
	}
	got := map[string]string{}
	for key, rest := range texts {
		got[key] = groupOf(rest, "Group1")
	}
	return got, nil
}

// groupOf is "TYPE KEYSYM…" of a group of a key.
func groupOf(rest, group string) string {
	typ := ""
	for _, form := range []string{`type= "`, "type[" + group + `]= "`} {
		if _, after, ok := strings.Cut(rest, form); ok {
			typ, _, _ = strings.Cut(after, `"`)
		}
	}
	_, list, _ := strings.Cut(rest, "symbols["+group+"]=")
	if list == "" {
		list = rest
	}
	_, list, _ = strings.Cut(list, "[")
	list, _, _ = strings.Cut(list, "]")
	var syms []string
	for s := range strings.SplitSeq(list, ",") {
		syms = append(syms, strings.TrimSpace(s))
	}
	if typ == "" {
		typ = keys.AutomaticType(syms)
	}
	return typ + " " + strings.Join(syms, " ")
}

// keysyms returns sorted lines "NAME HEX [CHAR-HEX]" for every keysym of the
// headers, and sorted lines "CHAR-HEX NAME" for the characters that have one: that
// with the lowest number, and of several names for it the first.
func keysyms(headers ...string) (names, characters []byte, err error) {
	var lines []string
	seen := map[string]bool{}
	type own struct {
		value int
		name  string
	}
	owns := map[int]own{}
	for _, header := range headers {
		text, err := os.ReadFile(header)
		if err != nil {
			return nil, nil, err
		}
		for line := range strings.Lines(string(text)) {
			f := strings.Fields(line)
			if len(f) < 3 || f[0] != "#define" {
				continue
			}
			name := strings.Replace(strings.TrimPrefix(f[1], "XK_"), "XF86XK_", "XF86", 1)
			var value, char int
			if n, _ := fmt.Sscanf(f[2], "_EVDEVK(0x%x)", &value); n == 1 {
				value += 0x10081000
			} else if n, _ := fmt.Sscanf(f[2], "0x%x", &value); n != 1 {
				continue
			}
			if seen[name] {
				continue
			}
			seen[name] = true
			entry := fmt.Sprintf("%s %x", name, value)
			// A character in brackets marks a keysym that only resembles it.
			if _, after, ok := strings.Cut(line, "/* U+"); ok {
				if n, _ := fmt.Sscanf(after, "%x", &char); n == 1 {
					entry += fmt.Sprintf(" %x", char)
					if old, taken := owns[char]; !taken || value < old.value {
						owns[char] = own{value, name}
					}
				}
			}
			lines = append(lines, entry)
		}
	}
	var chars []string
	for char, o := range owns {
		chars = append(chars, fmt.Sprintf("%06x %s", char, o.name))
	}
	return sorted(lines), sorted(chars), nil
}

// sorted is the lines by their first words.
func sorted(lines []string) []byte {
	first := func(line string) string { word, _, _ := strings.Cut(line, " "); return word }
	slices.SortFunc(lines, func(a, b string) int { return cmp.Compare(first(a), first(b)) })
	return []byte(strings.Join(lines, "\n") + "\n")
}

// layouts are the layouts we carry: those that people write with, and their
// usual variants.
var layouts = strings.Fields(`
us us(intl) us(altgr-intl) us(euro) us(mac) us(dvorak) us(colemak) us(dvorak-intl)
gb gb(intl) gb(extd) gb(mac) gb(dvorak) gb(colemak)
de de(nodeadkeys) de(deadacute) de(mac) de(us) de(T3) at at(nodeadkeys)
ch ch(fr) ch(de_nodeadkeys) ch(fr_nodeadkeys) ch(legacy)
fr fr(nodeadkeys) fr(oss) fr(latin9) fr(mac) fr(us) fr(azerty) be be(nodeadkeys)
ca ca(multix) ca(fr-legacy) ca(eng)
es es(nodeadkeys) es(deadtilde) es(cat) latam latam(nodeadkeys)
it it(nodeadkeys) it(us) it(ibm) pt pt(nodeadkeys) br br(nodeadkeys)
se se(nodeadkeys) se(mac) se(us) no no(nodeadkeys) dk dk(nodeadkeys) fi fi(classic) is
nl pl pl(qwertz) cz cz(qwerty) sk hu ro rs(latin) hr si bg ru ru(phonetic) ua gr
ee lv lt tr tr(f) il ie jp kr
`)

// evdev lists the kernel's names of keys, those that stand for themselves.
func evdev(header string) ([]byte, error) {
	text, err := os.ReadFile(header)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	out.WriteString("# CODE NAME of the keys of the kernel's input-event-codes.h.\n")
	for _, f := range regexp.MustCompile(`(?m)^#define KEY_(\w+)\s+(0x[0-9a-f]+|\d+)`).FindAllStringSubmatch(string(text), -1) {
		n, err := strconv.ParseInt(f[2], 0, 32)
		if err != nil {
			return nil, err
		}
		if f[1] != "MAX" && f[1] != "CNT" {
			fmt.Fprintf(&out, "%d %s\n", n, strings.ToLower(f[1]))
		}
	}
	return out.Bytes(), nil
}
