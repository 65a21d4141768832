package change

import (
	"fmt"
	"strconv"
	"strings"
)

// GVariant spells a value as dconf does. (GLib's documentation of the GVariant text format.)
func GVariant(v Value) string {
	switch v := v.(type) {
	case Text:
		return quote(string(v))
	case Texts:
		if len(v) == 0 {
			return "@as []"
		}
		items := make([]string, len(v))
		for i, item := range v {
			items[i] = quote(item)
		}
		return "[" + strings.Join(items, ", ") + "]"
	case Int:
		return strconv.Itoa(int(v))
	case Unsigned:
		return fmt.Sprintf("uint32 %d", uint(v))
	case Bool:
		return strconv.FormatBool(bool(v))
	case Raw:
		return string(v)
	default:
		panic(fmt.Sprintf("%T is no value of dconf", v))
	}
}

// quote spells a text, which has no U+0000.
func quote(s string) string {
	var b strings.Builder
	b.WriteByte('\'')
	for _, r := range s {
		switch {
		case r == '\'' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case r == '\n':
			b.WriteString(`\n`)
		case r == '\t':
			b.WriteString(`\t`)
		case r < ' ' || r == 0x7F:
			fmt.Fprintf(&b, `\u%04x`, r)
		default:
			b.WriteRune(r)
		}
	}
	b.WriteByte('\'')
	return b.String()
}

// ParseGVariant reads a value that dconf spells: texts and lists of them, whole numbers and
// truths. Any other is Raw.
func ParseGVariant(text string) Value {
	text = strings.TrimSpace(text)
	if v, rest, ok := parseText(text); ok && rest == "" {
		return Text(v)
	}
	if n, ok := strings.CutPrefix(text, "uint32 "); ok {
		if v, err := strconv.ParseUint(n, 10, 32); err == nil {
			return Unsigned(v)
		}
	}
	if v, err := strconv.ParseInt(text, 10, 32); err == nil && !strings.HasPrefix(text, "+") {
		return Int(v)
	}
	switch text {
	case "true", "false":
		return Bool(text == "true")
	case "@as []":
		return Texts{}
	}
	if list, ok := parseTexts(text); ok {
		return list
	}
	return Raw(text)
}

func parseTexts(text string) (Texts, bool) {
	rest, ok := strings.CutPrefix(text, "[")
	var list Texts
	for ok {
		var item string
		if item, rest, ok = parseText(rest); !ok {
			break
		}
		list = append(list, item)
		if rest == "]" {
			return list, true
		}
		rest, ok = strings.CutPrefix(rest, ", ")
	}
	return nil, false
}

// escapes are the characters behind a backslash that stand for others.
var escapes = map[byte]string{'n': "\n", 't': "\t", 'r': "\r", 'b': "\b", 'f': "\f", 'a': "\a", 'v': "\v"}

// parseText reads a text in quotation marks of either kind, and returns what follows it.
func parseText(s string) (text, rest string, ok bool) {
	if s == "" || s[0] != '\'' && s[0] != '"' {
		return "", s, false
	}
	mark := s[0]
	var b strings.Builder
	for i := 1; i < len(s); i++ {
		switch c := s[i]; {
		case c == mark:
			return b.String(), s[i+1:], true
		case c != '\\':
			b.WriteByte(c)
		case i+1 == len(s):
			return "", s, false
		default:
			i++
			digits := map[byte]int{'u': 4, 'U': 8}[s[i]]
			switch plain, known := escapes[s[i]]; {
			case digits > 0:
				if i+digits >= len(s) {
					return "", s, false
				}
				n, err := strconv.ParseUint(s[i+1:i+1+digits], 16, 32)
				if err != nil {
					return "", s, false
				}
				b.WriteRune(rune(n))
				i += digits
			case known:
				b.WriteString(plain)
			default:
				b.WriteByte(s[i])
			}
		}
	}
	return "", s, false
}

// SystemDconf has dconf look into the system's database, and compiles that.
func SystemDconf(about About) []Change {
	const profile = "/etc/dconf/profile/user"
	about.In = ""
	return []Change{
		Line{About: about, Path: profile, Text: "user-db:user"},
		Line{About: about, Path: profile, Text: "system-db:local"},
		NewCall(about, "dconf-compile"),
	}
}
