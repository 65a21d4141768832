package native

import (
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"strconv"
	"strings"
	"unicode/utf16"

	"howett.net/plist"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
)

// Read reads what the files of the store's form say.
func (t Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	entries, err := fs.ReadDir(fsys, "native")
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	of := m.Desktop
	if m.System != "linux" {
		of = string(m.System)
	}
	r := &reader{of: of}
	read := map[string]func(name string, text []byte) error{
		change.Dconf: r.keyfile, change.Xfconf: r.channel, change.KDE: r.groups, change.Defaults: r.propertyList,
		change.Registry: r.registry,
	}[t.Store]
	for _, e := range entries {
		text, err := fs.ReadFile(fsys, "native/"+e.Name())
		if err != nil {
			return nil, err
		}
		if err := read(e.Name(), text); err != nil {
			return nil, fmt.Errorf("native/%s: %w", e.Name(), err)
		}
	}
	behaviour.Sort(r.list)
	return r.list, nil
}

type reader struct {
	of   string // the system or desktop
	list []mechanism.Binding
}

func (r *reader) add(name string, v behaviour.Value) {
	r.list = append(r.list, behaviour.Set(behaviour.Option{Kind: behaviour.Native, For: r.of, Name: name}, v))
}

// keyfile reads dconf's own form.
func (r *reader) keyfile(_ string, text []byte) error {
	return keyfile.Each(string(text), func(l keyfile.Line) error {
		folder, name, value := "/"+l.Group+"/", l.Name, l.Value
		switch v := change.ParseGVariant(value).(type) {
		case change.Text:
			r.add(folder+name, behaviour.Word(v))
		case change.Int:
			r.add(folder+name, behaviour.Whole(v))
		case change.Bool:
			r.add(folder+name, behaviour.Truth(v))
		case change.Texts:
			r.add(folder+name, behaviour.Words(v))
		default: // of a type that is named
			typ, number, ok := strings.Cut(value, " ")
			if !ok || strings.ContainsAny(number, "'\"([{<") {
				return fmt.Errorf("%s is of no type that we write", value)
			}
			r.add(folder+name+" "+typ, numeral(number))
		}
		return nil
	})
}

// numeral is a number as a mapping says it: a whole one as such, another as a text.
func numeral(text string) behaviour.Value {
	if n, err := strconv.ParseInt(text, 10, 64); err == nil {
		return behaviour.Whole(n)
	}
	return behaviour.Word(text)
}

// property is one of Xfce's, with those in it.
type property struct {
	Name     string     `xml:"name,attr"`
	Type     string     `xml:"type,attr"`
	Value    string     `xml:"value,attr"`
	Children []property `xml:"property"`
}

func (r *reader) channel(name string, text []byte) error {
	var root property
	if err := xml.Unmarshal(text, &root); err != nil {
		return err
	}
	if root.Name != strings.TrimSuffix(name, ".xml") {
		return fmt.Errorf("it is of the channel %s", root.Name)
	}
	return r.properties(root.Name+":", root.Children)
}

func (r *reader) properties(in string, list []property) error {
	for _, p := range list {
		at := in + "/" + p.Name
		n, err := strconv.Atoi(p.Value)
		switch {
		case p.Type == "empty":
			if err := r.properties(at, p.Children); err != nil {
				return err
			}
		case p.Type == "string":
			r.add(at, behaviour.Word(p.Value))
		case p.Type == "int" && err == nil:
			r.add(at, behaviour.Whole(n))
		case p.Type == "bool":
			r.add(at, behaviour.Truth(p.Value == "true"))
		case p.Type == "uint" || p.Type == "double":
			r.add(at+" "+p.Type, numeral(p.Value))
		default:
			return fmt.Errorf("%s is of no type that we write", at)
		}
	}
	return nil
}

// groups reads a settings file of KDE's, whose values have no type of their own: a truth or a
// number is one by how it is spelled.
func (r *reader) groups(name string, text []byte) error {
	return keyfile.Each(string(text), func(l keyfile.Line) error {
		at := name + " [" + l.Group + "] " + l.Name
		switch whole, err := strconv.Atoi(l.Value); {
		case err == nil:
			r.add(at, behaviour.Whole(whole))
		case l.Value == "true" || l.Value == "false":
			r.add(at, behaviour.Truth(l.Value == "true"))
		default:
			r.add(at, behaviour.Word(unescape.Replace(l.Value)))
		}
		return nil
	})
}

var unescape = strings.NewReplacer(`\\`, `\`, `\n`, "\n", `\t`, "\t", `\r`, "\r", `\s`, " ")

func (r *reader) propertyList(name string, text []byte) error {
	var values map[string]any
	if _, err := plist.Unmarshal(text, &values); err != nil {
		return err
	}
	domain := strings.TrimSuffix(name, path.Ext(name))
	for key, v := range values {
		switch v := v.(type) {
		case string:
			r.add(domain+" "+key, behaviour.Word(v))
		case bool:
			r.add(domain+" "+key, behaviour.Truth(v))
		case uint64:
			r.add(domain+" "+key, behaviour.Whole(v))
		case int64:
			r.add(domain+" "+key, behaviour.Whole(v))
		case []any:
			list := behaviour.Words{}
			for _, item := range v {
				s, ok := item.(string)
				if !ok {
					return fmt.Errorf("%s is no list of texts", key)
				}
				list = append(list, s)
			}
			r.add(domain+" "+key, list)
		default:
			return fmt.Errorf("%s is of no type that we write", key)
		}
	}
	return nil
}

func (r *reader) registry(_ string, data []byte) error {
	if len(data) < 2 || len(data)%2 != 0 || binary.LittleEndian.Uint16(data) != 0xFEFF {
		return errors.New("not UTF-16LE text with a byte order mark")
	}
	var units []uint16
	for i := 2; i < len(data); i += 2 {
		units = append(units, binary.LittleEndian.Uint16(data[i:]))
	}
	lines := strings.Split(string(utf16.Decode(units)), "\r\n")
	if lines[0] != "Windows Registry Editor Version 5.00" {
		return errors.New("the first line is not that of a registry file of version 5.00")
	}
	in := ""
	for n, line := range lines[1:] {
		name, value, ok := strings.Cut(line, "=")
		name, quoted := unquote(name)
		switch {
		case line == "":
		case strings.HasPrefix(line, "[HKEY_") && strings.HasSuffix(line, "]"):
			in = roots.Replace(line[1 : len(line)-1])
		case !ok || in == "" || !quoted:
			return fmt.Errorf("line %d is neither a key nor a value", n+2)
		default:
			if text, ok := unquote(value); ok {
				r.add(in+":"+name, behaviour.Word(text))
				continue
			}
			number, err := strconv.ParseUint(strings.TrimPrefix(value, "dword:"), 16, 32)
			if err != nil {
				return fmt.Errorf("line %d: %s is of no type that we write", n+2, value)
			}
			r.add(in+":"+name, behaviour.Whole(number))
		}
	}
	return nil
}

var roots = strings.NewReplacer(`HKEY_CURRENT_USER\`, `HKCU\`, `HKEY_LOCAL_MACHINE\`, `HKLM\`)

func unquote(s string) (string, bool) {
	if len(s) < 2 || s[0] != '"' || s[len(s)-1] != '"' {
		return "", false
	}
	return strings.NewReplacer(`\\`, `\`, `\"`, `"`).Replace(s[1 : len(s)-1]), true
}
