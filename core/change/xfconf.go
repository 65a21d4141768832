package change

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Property is one node of a channel of Xfce's store.
type Property struct {
	Name, Type, Value string
	Locked            bool // for every user
	Values            []string
	Children          []Property
}

// Channel spells a channel as Xfce's store keeps it. (The files of xfconf's backend
// xfce-perchannel-xml.)
func Channel(name string, list []Property) []byte {
	var b bytes.Buffer
	b.WriteString(xml.Header)
	open(&b, "", "channel", "name", name, "version", "1.0")
	for _, p := range list {
		p.write(&b, "\n  ")
	}
	b.WriteString("\n</channel>\n")
	return b.Bytes()
}

// write writes a property on lines that begin with a line feed and an indent.
func (p Property) write(b *bytes.Buffer, line string) {
	attributes := []string{"name", p.Name, "type", p.Type}
	if p.Value != "" {
		attributes = append(attributes, "value", p.Value)
	}
	if p.Locked { // which counts only beside an exception
		attributes = append(attributes, "locked", "*", "unlocked", "root")
	}
	open(b, line, "property", attributes...)
	for _, v := range p.Values {
		open(b, line+"  ", "value", "type", "string", "value", v)
		b.WriteString("</value>")
	}
	for _, c := range p.Children {
		c.write(b, line+"  ")
	}
	if len(p.Values)+len(p.Children) > 0 {
		b.WriteString(line)
	}
	b.WriteString("</property>")
}

// open writes the start of an element with its attributes, each a name and a value.
func open(b *bytes.Buffer, line, element string, attributes ...string) {
	b.WriteString(line)
	b.WriteString("<" + element)
	for i := 0; i < len(attributes); i += 2 {
		b.WriteString(" " + attributes[i] + `="`)
		_ = xml.EscapeText(b, []byte(attributes[i+1])) // a buffer takes everything
		b.WriteByte('"')
	}
	b.WriteByte('>')
}

// channel spells the properties of a channel that a store has, in the order of the keys; nil where it has none of them.
func channel(keys []string, s Store) ([]byte, error) {
	m := NewSimulated()
	for _, key := range keys {
		v, err := s.Get(Xfconf, key)
		if err != nil {
			return nil, err
		}
		_ = m.Set(Xfconf, key, v) // memory takes everything
	}
	if len(m.Values) == 0 {
		return nil, nil
	}
	name, _, _ := strings.Cut(keys[0], ":")
	return Channel(name, tree(keys, m).Children), nil
}

// tree is the properties of keys, each in those that its path names.
func tree(keys []string, m *Simulated) *Property {
	root := &Property{}
	seen := map[string]bool{}
	for _, key := range keys {
		v := m.Values[Xfconf+":"+key]
		if v == nil || seen[key] {
			continue
		}
		seen[key] = true
		_, path, _ := strings.Cut(key, ":")
		parts := strings.Split(strings.TrimPrefix(path, "/"), "/")
		at := root
		for _, part := range parts[:len(parts)-1] {
			at = at.child(part)
		}
		p := Property{Name: parts[len(parts)-1]}
		p.Type, p.Value, p.Values = typed(v)
		at.Children = append(at.Children, p)
	}
	return root
}

// Locked spells the channel of settings, each locked for every user; what has no value is left
// out.
func Locked(list []Change) []byte {
	m := NewSimulated()
	var keys []string
	for _, c := range list {
		c := c.(Setting)
		_ = m.Set(c.Store, c.Key, c.To) // memory takes everything
		keys = append(keys, c.Key)
	}
	name, _, _ := strings.Cut(keys[0], ":")
	root := tree(keys, m)
	lock(root)
	return Channel(name, root.Children)
}

func lock(p *Property) {
	p.Locked = p.Type != "empty" && p.Type != ""
	for i := range p.Children {
		lock(&p.Children[i])
	}
}

// child is the property in it of a name, made where there is none.
func (p *Property) child(name string) *Property {
	for i := range p.Children {
		if p.Children[i].Name == name {
			return &p.Children[i]
		}
	}
	p.Children = append(p.Children, Property{Name: name, Type: "empty"})
	return &p.Children[len(p.Children)-1]
}

// typed is a value with Xfce's name of its type.
func typed(v Value) (typ, text string, list []string) {
	switch v := v.(type) {
	case Text:
		return "string", string(v), nil
	case Int:
		return "int", strconv.Itoa(int(v)), nil
	case Unsigned:
		return "uint", strconv.FormatUint(uint64(v), 10), nil
	case Bool:
		return "bool", strconv.FormatBool(bool(v)), nil
	case Raw: // a type, and the value
		typ, text, _ = strings.Cut(string(v), " ")
		return typ, text, nil
	case Texts:
		return "array", "", v
	default:
		panic(fmt.Sprintf("%T is no value of Xfce's store", v))
	}
}

// ShellWord makes one word, by rules that GLib and every POSIX shell share: in single quotes
// nothing has a meaning. (The shell library at hand refuses line breaks in its POSIX quoting.)
func ShellWord(w string) string {
	if w != "" && !strings.ContainsFunc(w, func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' ||
			strings.ContainsRune("-_./:=,+@%", r))
	}) {
		return w
	}
	return "'" + strings.ReplaceAll(w, "'", `'\''`) + "'"
}

// ShellLine is a line of shell of words, which the shell takes just as they are.
func ShellLine(words ...string) string {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = ShellWord(w)
	}
	return strings.Join(quoted, " ")
}

// XfconfProperty is a property with a value within those that its path names.
func XfconfProperty(path []string, v Value) (Property, error) {
	p := Property{Name: path[len(path)-1]}
	switch v.(type) {
	case Text, Int, Unsigned, Bool, Raw, Texts:
		p.Type, p.Value, p.Values = typed(v)
	default:
		return p, fmt.Errorf("%T is no value of Xfce's store", v)
	}
	for i := len(path) - 2; i >= 0; i-- {
		p = Property{Name: path[i], Type: "empty", Children: []Property{p}}
	}
	return p, nil
}

// SpellProperty spells a property on lines that begin with a line feed and an indent.
func SpellProperty(p Property, line string) string {
	var b bytes.Buffer
	p.write(&b, line)
	return b.String()
}

// XfconfLine is the line of shell that gives a property its value, or none.
func XfconfLine(key string, v Value) string {
	name, path, _ := strings.Cut(key, ":")
	words := []string{"xfconf-query", "-c", name, "-p", path}
	if v == nil {
		return ShellLine(append(words, "-r")...)
	}
	typ, text, list := typed(v)
	if typ != "array" {
		return ShellLine(append(words, "-n", "-t", typ, "-s", text)...)
	}
	words = append(words, "-n", "-a")
	for _, item := range list {
		words = append(words, "-t", "string", "-s", item)
	}
	return ShellLine(words...)
}

// properties sets what a channel lacks, and saves what each property had, once.
func properties(group []Change) (do, undo []string) {
	of, _, _ := strings.Cut(group[0].(Setting).Key, ":")
	saved := `saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/` + ShellWord(of) + `.xfconf`
	do = []string{saved, `mkdir -p "${saved%/*}" && touch "$saved"`,
		`keep() { grep -qF "$1 $2 $3 " "$saved" || printf '%s %s %s %s\n' "$1" "$2" "$3" "$(xfconf-query -c "$1" -p "$2" 2>/dev/null | base64 -w 0)" >> "$saved"; }`}
	undo = []string{
		saved,
		`back() { grep -qF "$1 $2 $3 " "$saved" 2> /dev/null || return 0; value=$(grep -F "$1 $2 $3 " "$saved" | cut -d ' ' -f 4); { grep -vF "$1 $2 $3 " "$saved" || true; } > "$saved.new"; mv "$saved.new" "$saved"
  if [ -n "$value" ]; then xfconf-query -c "$1" -p "$2" -n -t "$3" -s "$(echo "$value" | base64 -d)"; else xfconf-query -c "$1" -p "$2" -r; fi; }`,
	}
	none := len(undo)
	alone := slices.ContainsFunc(group, func(c Change) bool { return c.(Setting).Sole })
	if alone {
		do = append(do, `others() { xfconf-query -c "$1" -p "${2%/*}" -l -v | awk -v own="$2" -v value="$3" '$1 != own && $2 == value { print $1 }' |
  while read -r property; do keep "$1" "$property" string; xfconf-query -c "$1" -p "$property" -r; done; }`)
		undo = append(undo, `others() { grep "^$1 ${2%/*}/[^ ]* string $(echo "$3" | base64 -w 0)$" "$saved" 2> /dev/null |
  while read -r channel property type value; do back "$channel" "$property" "$type"; done; }`)
		none++
	}
	for _, c := range group {
		c := c.(Setting)
		if c.Assumed {
			continue
		}
		name, path, _ := strings.Cut(c.Key, ":")
		typ, text := "string", ""
		if c.To != nil {
			typ, text, _ = typed(c.To)
		}
		set := []string{"xfconf-query", "-c", name, "-p", path}
		if c.To == nil {
			set = append(set, "-r")
		} else {
			set = append(set, "-n", "-t", typ, "-s", text)
		}
		do = append(do, ShellLine("keep", name, path, typ))
		undo = append(undo, ShellLine("back", name, path, typ))
		if c.Sole {
			do = append(do, ShellLine("others", name, path, text))
			undo = append(undo, ShellLine("others", name, path, text))
		}
		do = append(do, ShellLine(set...))
	}
	if len(undo) == none {
		return nil, nil
	}
	return do, undo
}
