package change

import (
	"fmt"
	"strconv"
	"strings"

	"howett.net/plist"
)

// A key of Defaults is a domain of macOS's preferences and the name of a key in it, with a colon
// between: com.apple.dock:autohide. (The manual pages defaults(1) and plutil(1) of macOS.)

// preferences spells keys of one domain as a property list.
func preferences(keys []key, s Store) ([]byte, error) {
	values := map[string]any{}
	for _, k := range keys {
		v, err := s.Get(k.store, k.name)
		if err != nil {
			return nil, err
		}
		_, name, _ := strings.Cut(k.name, ":")
		switch v := v.(type) {
		case nil:
		case Text:
			values[name] = string(v)
		case Int:
			values[name] = int(v)
		case Bool:
			values[name] = bool(v)
		case Texts:
			values[name] = []string(v)
		default:
			return nil, fmt.Errorf("%T is no value of macOS's preferences", v)
		}
	}
	text, err := plist.MarshalIndent(values, plist.XMLFormat, "  ")
	return append(text, '\n'), err
}

// defaults sets keys of macOS's preferences, and saves what each had as a property list, once. A
// name with a full stop is one with a backslash before it, for the program that finds it.
func defaults(group []Change) (do, undo []string) {
	const saved = `saved=~/Library/"Application Support"/Leitstand/defaults; mkdir -p "$saved"`
	do = []string{
		saved,
		`keep() { [ -e "$saved/$1 $2" ] || defaults export "$1" - | plutil -extract "$(echo "$2" | sed 's/\./\\./g')" xml1 -o "$saved/$1 $2" - > /dev/null || : > "$saved/$1 $2"; }`,
	}
	undo = []string{saved, `back() { [ -e "$saved/$1 $2" ] || return 0
  if [ -s "$saved/$1 $2" ]; then defaults write "$1" "$2" "$(cat "$saved/$1 $2")"; else defaults delete "$1" "$2"; fi; rm "$saved/$1 $2"; }`}
	for _, c := range group {
		c := c.(Setting)
		domain, name, _ := strings.Cut(c.Key, ":")
		words := ShellWord(domain) + " " + ShellWord(name)
		do, undo = append(do, "keep "+words), append(undo, "back "+words)
		switch v := c.To.(type) {
		case Text:
			do = append(do, "defaults write "+words+" -string "+ShellWord(string(v)))
		case Int:
			do = append(do, "defaults write "+words+" -int "+strconv.Itoa(int(v)))
		case Bool:
			do = append(do, "defaults write "+words+" -bool "+strconv.FormatBool(bool(v)))
		case Texts:
			line := "defaults write " + words + " -array"
			for _, item := range v {
				line += " " + ShellWord(item)
			}
			do = append(do, line)
		default: // the form of the store has refused it already
		}
	}
	return do, undo
}
