package main

import (
	"bytes"
	"cmp"
	"fmt"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"

	"leitstand/core/keys"
)

// options lists what the options of XKB's rules make of keys, in the order in which the
// rules apply them. Left out are those whose work depends on the layout.
func options(rules string) ([]byte, error) {
	text, err := os.ReadFile(rules)
	if err != nil {
		return nil, err
	}
	// An option may have more to it than symbols.
	sections := map[string][][2]string{}
	section := ""
	for line := range strings.Lines(string(text)) {
		f := strings.Fields(line)
		switch {
		case len(f) > 0 && f[0] == "!":
			section = strings.Join(f[1:], " ")
		case strings.HasPrefix(section, "option = ") && len(f) == 3 && f[1] == "=":
			sections[section] = append(sections[section], [2]string{f[0], f[2]})
		}
	}
	more := map[string]bool{}
	for name, list := range sections {
		for _, o := range list {
			more[o[0]] = more[o[0]] || name != "option = symbols"
		}
	}
	var out bytes.Buffer
	out.WriteString("# What XKB's options make of keys, from xkeyboard-config, in the order of its rules.\n")
	out.WriteString(
		"# KEY TYPE KEYSYM…, a dash for a type that follows from the keysyms or for a keysym that stays,\n# and = " +
			"for a type that stays; joins MODIFIER… KEY;\n# next KEY TYPE KEYSYM… of a group behind the first; " +
			"virtual KEY MODIFIER…; actions KEY ACTION….\n",
	)
	for _, o := range sections["option = symbols"] {
		lines, err := option(o[0], o[1])
		if err != nil {
			return nil, err
		}
		if len(lines) > 0 && !more[o[0]] && !slices.Contains(unlike, o[0]) {
			fmt.Fprintf(&out, "\noption %s %s\n%s\n", o[0], o[1], strings.Join(lines, "\n"))
		}
	}
	return out.Bytes(), nil
}

// unlike are options of which our data would say too little: what they do differs by the
// place of a layout in the keymap, they put several keysyms on a level or their own
// modifiers on virtual ones. A test holds all others against real keymaps.
var unlike = strings.Fields(`
altwin:meta_win altwin:left_meta_win ctrl:lctrl_meta grp:alts_toggle lv3:4_switch_isolated lv3:9_switch_isolated
japan:nicola_f_bs japan:hztg_escape solaris:sun_compat parens:swap_brackets
`)

// option lists what an option changes, nothing if our data cannot say it.
func option(name, include string) ([]string, error) {
	var without, with, without2, with2 []map[string]string
	changed := map[string]bool{}
	for _, layout := range keys.OptionBases {
		for _, c := range []struct {
			layouts, options string
			list             *[]map[string]string
		}{{layout, "", &without}, {layout, name, &with}, {"us," + layout, "", &without2}, {"us," + layout, name, &with2}} {
			found, err := keysOf(c.layouts, c.options)
			if err != nil {
				return nil, err
			}
			*c.list = append(*c.list, found)
		}
		w, o := without[len(without)-1], with[len(with)-1]
		for _, some := range []map[string]string{w, o} {
			for key := range some {
				changed[key] = changed[key] || o[key] != w[key]
			}
		}
	}
	var lines []string
	for _, key := range slices.Sorted(maps.Keys(changed)) {
		if !changed[key] {
			continue
		}
		var before, after [][]string
		for i := range keys.OptionBases {
			if with[i][key] == "" || key == "HYPR" || // which is to be Hyper
				given(actions, with[i][key]) != given(actions, with[0][key]) {
				return nil, nil
			}
			was := ""
			if without[i][key] != "" {
				was = groupOf(without[i][key], "Group1")
			}
			before = append(before, strings.Fields(was))
			after = append(after, strings.Fields(groupOf(with[i][key], "Group1")))
		}
		if _, known := keys.ByXKB(key); !known { // a key of no board is given whole
			before = make([][]string, len(before))
		}
		line, ok := merged(before, after)
		if !ok {
			return nil, nil
		}
		lines = append(lines, key+line)
		before, after = nil, nil
		differs := false
		for i := range keys.OptionBases {
			if w, o := without2[i][key], with2[i][key]; strings.Contains(w, "[Group2]") {
				before = append(before, strings.Fields(groupOf(w, "Group2")))
				after = append(after, strings.Fields(groupOf(o, "Group2")))
				differs = differs || groupOf(w, "Group2") != groupOf(o, "Group2")
			}
		}
		if differs {
			line, ok := merged(before, after)
			if !ok {
				return nil, nil
			}
			lines = append(lines, "next "+key+line)
		}
		if v := given(virtualMods, with[0][key]); v != "" {
			lines = append(lines, "virtual "+key+" "+strings.ReplaceAll(v, "+", " "))
		}
		if a := given(actions, with[0][key]); a != "" {
			lines = append(lines, "actions "+key+" "+strings.ReplaceAll(strings.ReplaceAll(a, " ", ""), "),", ") "))
		}
	}
	if len(lines) == 0 {
		return nil, nil
	}
	named := map[string][]string{}
	for part := range strings.SplitSeq(strings.TrimPrefix(include, "+"), "+") {
		if err := explicit(part, named); err != nil {
			return nil, err
		}
	}
	for _, key := range slices.Sorted(maps.Keys(named)) {
		lines = append(lines, "joins "+strings.Join(named[key], " ")+" "+key)
	}
	return lines, nil
}

// explicit gathers, by key, the modifiers whose maps a section of symbols, such as
// ctrl(nocaps), puts keys into by name. What a compiled keymap shows of that may be so
// without it, too, until the key is given something else.
func explicit(section string, named map[string][]string) error {
	file, name, _ := strings.Cut(strings.TrimSuffix(section, ")"), "(")
	text, err := os.ReadFile("/usr/share/X11/xkb/symbols/" + file)
	if err != nil {
		return err
	}
	_, body, ok := strings.Cut(comments.ReplaceAllString(string(text), ""), `xkb_symbols "`+name+`"`)
	if !ok {
		return fmt.Errorf("%s has no section %s", file, name)
	}
	body, _, _ = strings.Cut(body, "\n};")
	for _, m := range includes.FindAllStringSubmatch(body, -1) {
		if err := explicit(m[1], named); err != nil {
			return err
		}
	}
	for _, m := range statements.FindAllStringSubmatch(body, -1) {
		for _, key := range keyNames.FindAllStringSubmatch(m[2], -1) {
			k := key[1]
			if k == "MENU" { // an alias
				k = "COMP"
			}
			if !slices.Contains(named[k], m[1]) {
				named[k] = append(named[k], m[1])
			}
		}
	}
	return nil
}

// merged says what makes each layout's group of a key out of what it was: a type and
// keysyms, with a dash for a type that follows from the keysyms and for a keysym that
// stays, and = for a type that stays, and has no more levels than it had.
func merged(before, after [][]string) (string, bool) {
	all := func(holds func(i int) bool) bool {
		for i := range after {
			if !holds(i) {
				return false
			}
		}
		return true
	}
	at := func(list []string, i int) string {
		if i < len(list) {
			return list[i]
		}
		return "NoSymbol"
	}
	longest := slices.MaxFunc(after, func(a, b []string) int { return cmp.Compare(len(a), len(b)) })
	for _, typ := range []struct {
		form  string
		holds func(i int) bool
	}{
		{after[0][0], func(i int) bool { return after[i][0] == after[0][0] }},
		{"=", func(i int) bool { return after[i][0] == at(before[i], 0) }},
		{"-", func(i int) bool { return after[i][0] == keys.AutomaticType(after[i][1:]) }},
	} {
		line, ok := []string{"", typ.form}, all(typ.holds)
		for l := 1; ok && l < len(longest); l++ {
			beyond := func(i int) bool { return typ.form == "=" && after[i][0] == "ONE_LEVEL" && l > 1 }
			switch {
			case all(func(i int) bool { return at(after[i], l) == at(before[i], l) }):
				line = append(line, "-")
			case all(func(i int) bool { return beyond(i) || at(after[i], l) == longest[l] }):
				line = append(line, longest[l])
			default:
				ok = false
			}
		}
		if ok {
			return strings.Join(line, " "), true
		}
	}
	return "", false
}

// given is what an expression finds in a stanza, "" for nothing.
func given(what *regexp.Regexp, stanza string) string {
	found := what.FindStringSubmatch(stanza)
	if found == nil {
		return ""
	}
	return strings.TrimSpace(found[1])
}

// plain is what keysOf has found of layouts without options, which each option asks for.
var plain = map[string]map[string]string{}

// keysOf compiles layouts with options: the text of each key.
func keysOf(layouts, options string) (map[string]string, error) {
	if known, ok := plain[layouts]; ok && options == "" {
		return known, nil
	}
	text, err := symbols(layouts, "", options)
	found := map[string]string{}
	if options == "" {
		plain[layouts] = found
	}
	for _, m := range keyStanza.FindAllStringSubmatch(text, -1) {
		found[m[1]] = m[2]
	}
	return found, err
}

var (
	keyStanza   = regexp.MustCompile(`(?s)key <(\w+)> *\{(.*?)\};`)
	actions     = regexp.MustCompile(`actions\[Group1\]= *\[([^\]]*)\]`)
	virtualMods = regexp.MustCompile(`virtualMods= *([\w+]+)`)
	comments    = regexp.MustCompile(`//.*`)
	includes    = regexp.MustCompile(`include +"([^"]+)"`)
	statements  = regexp.MustCompile(`modifier_map +(\w+) *\{([^}]*)\}`)
	keyNames    = regexp.MustCompile(`<(\w+)>`)
)
