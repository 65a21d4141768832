package change

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"howett.net/plist"
)

// A key of Defaults is a domain of macOS's preferences and the name of a key in it, with a colon
// between: com.apple.dock:autohide. Behind a second colon is an entry of the dictionary that the key
// holds, whose other entries are not ours; a colon in a name is one with a backslash before it. The
// preferences of a user for one machine only are those of a domain with host/ before it. (The manual
// pages defaults(1) and plutil(1) of macOS.)

// HostDomain is what stands before a domain of preferences for one machine only.
const HostDomain = "host/"

// EscapeColons writes a name of macOS's preferences so that it holds no colon that parts.
func EscapeColons(name string) string { return strings.ReplaceAll(name, ":", `\:`) }

// preference is a key of Defaults, taken apart.
type preference struct {
	host        bool
	domain, key string
	entry       string
	inside      bool // it is an entry
}

func parsePreference(name string) preference {
	domain, rest, _ := strings.Cut(name, ":")
	p := preference{domain: domain}
	p.domain, p.host = strings.CutPrefix(domain, HostDomain)
	const escaped = "\x00"
	key, entry, inside := strings.Cut(strings.ReplaceAll(rest, `\:`, escaped), ":")
	p.key, p.inside = strings.ReplaceAll(key, escaped, ":"), inside
	p.entry = strings.ReplaceAll(entry, escaped, `\:`) // an entry is as it stands
	return p
}

// words are the domain and the names, for a shell.
func (p preference) words() string {
	words := visibleWord(p.domain) + " " + visibleWord(p.key)
	if p.inside {
		words += " " + visibleWord(p.entry)
	}
	return words
}

// PropertyList is a value of macOS's preferences that is no plain one: arrays, dictionaries, numbers,
// as howett.net/plist takes them.
func PropertyList(v any) Raw {
	text, err := plist.Marshal(v, plist.XMLFormat)
	if err != nil {
		panic(err) // of no type that a property list has
	}
	_, rest, _ := strings.Cut(string(text), "<plist")
	_, rest, _ = strings.Cut(rest, ">")
	rest, _, _ = strings.Cut(rest, "</plist>")
	return Raw(strings.TrimSpace(rest))
}

// preferences spells keys of one domain as a property list.
func preferences(keys []key, s Store) ([]byte, error) {
	values := map[string]any{}
	for _, k := range keys {
		v, err := s.Get(k.store, k.name)
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		listed, err := inPropertyList(v)
		if err != nil {
			return nil, err
		}
		p := parsePreference(k.name)
		if !p.inside {
			values[p.key] = listed
			continue
		}
		entries, _ := values[p.key].(map[string]any)
		if entries == nil {
			entries = map[string]any{}
			values[p.key] = entries
		}
		entries[p.entry] = listed
	}
	form := plist.XMLFormat
	if hasControls(values) { // which XML cannot hold; the old form of texts can
		form = plist.GNUStepFormat
	}
	text, err := plist.MarshalIndent(values, form, "  ")
	if form == plist.GNUStepFormat {
		text = octal().ReplaceAllFunc(text, func(b []byte) []byte {
			if len(b) == 1 {
				return fmt.Appendf(nil, `\%03o`, b[0])
			}
			n, err := strconv.ParseUint(string(b[1:]), 8, 16)
			if err != nil || n < 0x80 {
				return b
			}
			return fmt.Appendf(nil, `\U%04x`, n)
		})
	}
	return append(text, '\n'), err
}

// octal is a control character, a backslash that is escaped, or a character by its number, which is of
// another set of characters to macOS from 200 on.
var octal = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile("[\x01-\x08\x0b\x0c\x0e-\x1f]|\\\\\\\\|\\\\[0-7]{3}")
})

// hasControls says whether a name or a text of a property list holds control characters.
func hasControls(v any) bool {
	control := func(s string) bool {
		return strings.ContainsFunc(s, func(r rune) bool { return r < ' ' && r != '\n' && r != '\t' && r != '\r' })
	}
	switch v := v.(type) {
	case string:
		return control(v)
	case []string:
		return slices.ContainsFunc(v, control)
	case []any:
		return slices.ContainsFunc(v, hasControls)
	case map[string]any:
		for name, of := range v {
			if control(name) || hasControls(of) {
				return true
			}
		}
	}
	return false
}

func inPropertyList(v Value) (listed any, err error) {
	switch v := v.(type) {
	case Text:
		return string(v), nil
	case Int:
		return int(v), nil
	case Bool:
		return bool(v), nil
	case Texts:
		return []string(v), nil
	case Raw:
		_, err = plist.Unmarshal([]byte("<plist>"+string(v)+"</plist>"), &listed)
		return listed, err
	default:
		return nil, fmt.Errorf("%T is no value of macOS's preferences", v)
	}
}

// The lines that save what keys of macOS's preferences have, each once, as property lists, and have
// it back. In the path of a key, a full stop that does not part names has a backslash before it.
var (
	preferencesKept = []string{
		`saved=~/Library/"Application Support"/Leitstand/defaults; mkdir -p "$saved"`,
		`keypath() { p=; for n; do p="$p${p:+.}$(printf %s "$n" | sed 's/\./\\./g')"; done; printf %s "$p"; }`,
		`file() { printf %s "$saved/$(printf %s "$host$*" | tr / '\035')"; }`,
	}
	preferencesKeep = `keep() { f=$(file "$@"); [ -e "$f" ] && return 0
  defaults $host export "$1" "$saved/now"; shift
  plutil -extract "$(keypath "$@")" xml1 -o "$f" "$saved/now" > /dev/null 2>&1 || : > "$f"; rm "$saved/now"; }`
	preferencesBack = `back() { f=$(file "$@"); [ -e "$f" ] || return 0
  if [ -s "$f" ] && [ $# = 3 ]; then defaults $host write "$1" "$2" -dict-add "$3" "$(cat "$f")"
  elif [ -s "$f" ]; then defaults $host write "$1" "$2" "$(cat "$f")"
  elif [ $# = 3 ]; then
    defaults $host export "$1" "$saved/now"
    plutil -remove "$(keypath "$2" "$3")" "$saved/now"
    ! plutil -extract "$(keypath "$2")" xml1 -o - "$saved/now" | grep -q '^<dict/>' || plutil -remove "$(keypath "$2")" "$saved/now"
    defaults $host import "$1" "$saved/now"; rm "$saved/now"
  else defaults $host delete "$1" "$2"; fi; rm "$f"; }`
)

// defaults sets keys of macOS's preferences, and saves what each had, once.
func defaults(group []Change) (do, undo []string) {
	do = append(slices.Clone(preferencesKept), preferencesKeep)
	undo = append(slices.Clone(preferencesKept), preferencesBack)
	host := ""
	for _, c := range group {
		c := c.(Setting)
		p := parsePreference(c.Key)
		line := "host="
		if p.host {
			line += "-currentHost"
		}
		if line != host {
			host, do, undo = line, append(do, line), append(undo, line)
		}
		do, undo = append(do, "keep "+p.words()), append(undo, "back "+p.words())
		write := "defaults $host write " + visibleWord(p.domain) + " " + visibleWord(p.key) + " "
		if p.inside {
			write += "-dict-add " + visibleWord(p.entry) + " "
		}
		do = append(do, write+preferenceWords(c.To, p.inside))
	}
	return do, undo
}

// preferenceWords is a value as defaults takes it; an entry of a dictionary has no type of its own
// there but as a property list.
func preferenceWords(to Value, inside bool) string {
	if listed, err := inPropertyList(to); inside && err == nil {
		to = PropertyList(listed)
	}
	switch v := to.(type) {
	case Text:
		return "-string " + visibleWord(string(v))
	case Int:
		return "-int " + strconv.Itoa(int(v))
	case Bool:
		return "-bool " + strconv.FormatBool(bool(v))
	case Texts: // whose items the program would read as property lists
		return visibleWord(string(PropertyList([]string(v))))
	case Raw:
		return visibleWord(string(v))
	default: // the form of the store has refused it already
		return ""
	}
}

// visibleWord is a word for a shell that can be copied from a page.
func visibleWord(w string) string {
	if strings.ContainsFunc(w, unseen) {
		return printed(w)
	}
	return ShellWord(w)
}

// unseen are characters that nobody can copy from a page.
func unseen(r rune) bool {
	return r < ' ' && r != '\n' && r != '\t' || r == 0x7F || r >= 0xE000 && r <= 0xF8FF
}

// printed is a word that a shell has printf make, with what cannot be seen by its bytes.
func printed(w string) string {
	var s strings.Builder
	for _, r := range w {
		switch {
		case unseen(r) || r == '\'':
			for _, b := range []byte(string(r)) {
				fmt.Fprintf(&s, `\%03o`, b)
			}
		case r == '\\':
			s.WriteString(`\\`)
		case r == '%':
			s.WriteString("%%")
		default:
			s.WriteRune(r)
		}
	}
	return `"$(printf '` + s.String() + `')"`
}
