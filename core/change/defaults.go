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
		text = bare().ReplaceAll(text, []byte(`$1"$2"$3`))
	}
	return append(text, '\n'), err
}

// bare is a word without quotes that has a sign which needs them: macOS takes letters, digits and _$/:.- only.
var bare = sync.OnceValue(func() *regexp.Regexp {
	const word = `[^\s"{}()<>;=,]`
	return regexp.MustCompile(`(?m)(^\s*|= )(` + word + `*[^\w$/:.\-\s"{}()<>;=,]` + word + `*)( =|;$|,$|$)`)
})

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

// PreferencesFile is the name of the script in a Mac's folder by which steps set preferences, and
// PreferencesScript its text.
const PreferencesFile = "preferences.sh"

// PreferencesScript saves what a key has before it is set, once, as a property list. In the path of a key,
// a full stop that does not part names has a backslash before it.
const PreferencesScript = `#!/bin/sh
# Sets preferences of this Mac, and has them as they were; the steps call it. Nothing is set before what was there is saved,
# and what was saved is deleted only after it was read back.
#
#   preferences.sh [-currentHost] set DOMAIN KEY VALUE...      as defaults(1) takes values
#   preferences.sh [-currentHost] put DOMAIN KEY ENTRY VALUE   an entry of a dictionary
#   preferences.sh [-currentHost] back DOMAIN KEY [ENTRY]
#   preferences.sh keys MATCH                                  saves what hidutil(1) has of boards; all, for all
#   preferences.sh keys-back MATCH [sudo]
host=
if [ "$1" = -currentHost ]; then host=$1; shift; fi
verb=$1 domain=$2 key=$3
saved=~/Library/"Application Support"/Leitstand/preferences
now=$saved/now
mkdir -p "$saved" || exit 1
stop() {
  rm -f "$now" "$now.xml"
  echo "$1" >&2
  exit 1
}

# The pairs of a mapping, as hidutil prints them, in JSON.
pairs() {
  tr -d '\n' | grep -o '{[^{}]*}' | awk '
    function number(of) { return match($0, of "\"? *[=:] *[0-9]+") ? substr($0, RSTART, RLENGTH) : "" }
    { src = number("Src"); dst = number("Dst"); sub(/^[^0-9]*/, "", src); sub(/^[^0-9]*/, "", dst) }
    src != "" && dst != "" {
      printf "%s{\"HIDKeyboardModifierMappingSrc\":%s,\"HIDKeyboardModifierMappingDst\":%s}", (n++ ? "," : ""), src, dst
    }'
}
held() {
  if [ "$domain" = all ]; then hidutil property --get UserKeyMapping; else hidutil property --matching "$domain" --get UserKeyMapping; fi
}
case $verb in
keys | keys-back)
  file=$saved/keys' '$(printf %s "$domain" | tr / '\035')
  if [ $verb = keys ]; then
    if [ -e "$file" ]; then exit 0; fi
    had=$(held) || stop "What hidutil has of $domain could not be read, so nothing is set."
    printf %s "$had" | pairs > "$file.part" && mv "$file.part" "$file" || stop "What hidutil has of $domain could not be saved."
    exit 0
  fi
  [ -e "$file" ] || exit 0
  # Boards without a list of their own have that for all.
  if ! [ -s "$file" ] && [ "$domain" != all ] && [ -n "$(hidutil property --get UserKeyMapping | pairs)" ]; then
    rm "$file"
    exit 0
  fi
  set -- "$3" --set "{\"UserKeyMapping\":[$(cat "$file")]}"
  if [ "$domain" = all ]; then $1 hidutil property "$2" "$3"; else $1 hidutil property --matching "$domain" "$2" "$3"; fi
  [ "$(held | pairs)" = "$(cat "$file")" ] || stop "hidutil has not what it had of $domain; that is kept in $file"
  rm "$file"
  exit 0
  ;;
esac
shift 3

escaped() { printf %s "$1" | sed 's/\./\\./g'; }
path=$(escaped "$key")
file=$host$domain' '$key
case $verb$# in
put2 | back1) entry=$1 path=$path.$(escaped "$1") file=$file' '$1 ;;
esac
file=$saved/$(printf %s "$file" | tr / '\035')
# What the domain has is written to $now; of the key, to $now.xml. An absent one fails.
ask() { defaults $host export "$domain" "$now" && plutil -lint "$now" > /dev/null; }
has() { plutil -extract "$path" xml1 -o "$now.xml" "$now" > /dev/null 2>&1; }

case $verb in
set | put)
  if ! [ -e "$file" ]; then
    ask || stop "What $domain has could not be read, so $key is not set."
    if has; then mv "$now.xml" "$file"; else : > "$file"; fi || stop "What $key has could not be saved, so it is not set."
    rm -f "$now" "$now.xml"
  fi
  if [ "$verb" = set ]; then
    defaults $host write "$domain" "$key" "$@"
  else
    defaults $host write "$domain" "$key" -dict-add "$@"
  fi
  ;;
back)
  [ -e "$file" ] || exit 0
  if [ -s "$file" ] && [ $# = 1 ]; then
    defaults $host write "$domain" "$key" -dict-add "$entry" "$(cat "$file")"
  elif [ -s "$file" ]; then
    defaults $host write "$domain" "$key" "$(cat "$file")"
  else
    ask || stop "What $domain has could not be read; what $key had is kept in $file"
    if ! has; then
      : # it is gone already
    elif [ $# = 0 ]; then
      defaults $host delete "$domain" "$key"
    else
      plutil -remove "$path" "$now"
      # A dictionary that was made for it goes with it; what is imported takes no key away.
      if plutil -extract "$(escaped "$key")" xml1 -o - "$now" | grep -q '^<dict/>'; then
        defaults $host delete "$domain" "$key"
      else
        defaults $host import "$domain" "$now"
      fi
    fi
  fi
  ask || stop "What $domain has could not be read; what $key had is kept in $file"
  if has; then cmp -s "$now.xml" "$file"; else ! [ -s "$file" ]; fi || stop "$key is not as it was; what it had is kept in $file"
  rm -f "$now" "$now.xml" "$file"
  ;;
esac
`

// defaults sets keys of macOS's preferences, and has each as it was.
func defaults(group []Change) (do, undo []string) {
	for _, c := range group {
		c := c.(Setting)
		p := parsePreference(c.Key)
		call, verb := "sh "+PreferencesFile+" ", "set "
		if p.host {
			call += "-currentHost "
		}
		if p.inside {
			verb = "put "
		}
		do = append(do, call+verb+p.words()+" "+preferenceWords(c.To, p.inside))
		undo = append(undo, call+"back "+p.words())
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
