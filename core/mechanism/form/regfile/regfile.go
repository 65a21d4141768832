// Package regfile reads registry files of Windows, as its editor exports them and as people write them.
//
// The first line is "Windows Registry Editor Version 5.00", or REGEDIT4 of older systems. A line in brackets
// names a key, with a minus behind the bracket one that goes; "name"=value is a value of it: a text in
// quotes, dword: with eight digits, hex: with bytes, which go on in the next line behind a backslash, hex(n):
// with those of another type, or a minus for a value that goes. The editor writes UTF-16 with a byte order
// mark; people write 8-bit text or UTF-8.
//
// Source: Microsoft, "How to add, modify, or delete registry subkeys and values by using a .reg file".
package regfile

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"

	"golang.org/x/text/encoding/unicode"
)

// Value is a value of the registry.
type Value struct {
	Line int    // of the file, from 1
	Key  string // with its root's long name
	Name string // "" for the key's default
	// Of the three, one: a text, a number, or bytes of a type.
	Text   *string
	Number *uint32
	Bytes  []byte
	Type   string // of bytes: "hex", or "hex(2)" and the like
	Gone   bool   // the value is deleted; with no name the key is
}

// roots are the short names of roots, which people write.
var roots = map[string]string{
	"HKCU": "HKEY_CURRENT_USER", "HKLM": "HKEY_LOCAL_MACHINE", "HKU": "HKEY_USERS", "HKCR": "HKEY_CLASSES_ROOT",
}

// Text is a file's text, decoded.
func Text(data []byte) (string, error) {
	if bytes.HasPrefix(data, []byte{0xFF, 0xFE}) || bytes.HasPrefix(data, []byte{0xFE, 0xFF}) {
		plain, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(data)
		return string(plain), err
	}
	return string(bytes.TrimPrefix(data, []byte("\ufeff"))), nil
}

// Open reads all values of a file of a folder; none where it is not there.
func Open(fsys fs.FS, name string) ([]Value, error) {
	data, err := fs.ReadFile(fsys, name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	list, err := Parse(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return list, nil
}

// Parse reads all values of a file.
func Parse(data []byte) ([]Value, error) {
	text, err := Text(data)
	if err != nil {
		return nil, err
	}
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if head := strings.TrimSpace(lines[0]); head != "Windows Registry Editor Version 5.00" && head != "REGEDIT4" {
		return nil, errors.New("the first line is not that of a registry file")
	}
	var list []Value
	key := ""
	for i := 1; i < len(lines); i++ {
		line, n := strings.TrimSpace(lines[i]), i+1
		for strings.HasSuffix(line, `\`) && i+1 < len(lines) {
			i++
			line = strings.TrimSuffix(line, `\`) + strings.TrimSpace(lines[i])
		}
		switch {
		case line == "" || line[0] == ';':
		case line[0] == '[' && strings.HasSuffix(line, "]"):
			key = line[1 : len(line)-1]
			if gone, ok := strings.CutPrefix(key, "-"); ok {
				list = append(list, Value{Line: n, Key: long(gone), Gone: true})
				key = ""
			} else {
				key = long(key)
			}
		case key == "":
			return nil, fmt.Errorf("line %d is in no key", n)
		default:
			v, err := value(line)
			if err != nil {
				return nil, fmt.Errorf("line %d: %w", n, err)
			}
			v.Line, v.Key = n, key
			list = append(list, v)
		}
	}
	return list, nil
}

// long is a key with its root's long name.
func long(key string) string {
	root, rest, _ := strings.Cut(key, `\`)
	if name, ok := roots[strings.ToUpper(root)]; ok {
		return name + `\` + rest
	}
	return key
}

// value reads a line that sets a value.
func value(line string) (v Value, err error) {
	rest := ""
	if after, ok := strings.CutPrefix(line, "@="); ok {
		rest = after
	} else if v.Name, rest, err = quoted(line); err != nil {
		return v, err
	} else if rest, ok = strings.CutPrefix(rest, "="); !ok {
		return v, errors.New("a value's name stands before an equals sign")
	}
	kind, data, typed := strings.Cut(rest, ":")
	switch {
	case rest == "-":
		v.Gone = true
	case strings.HasPrefix(rest, `"`):
		text, after, err := quoted(rest)
		if err != nil || after != "" {
			return v, errors.New("a text stands in quotes")
		}
		v.Text = &text
	case typed && strings.EqualFold(kind, "dword"):
		n, err := strconv.ParseUint(data, 16, 32)
		if err != nil {
			return v, fmt.Errorf("%q is no number of 32 bits", data)
		}
		number := uint32(n)
		v.Number = &number
	case typed && strings.HasPrefix(strings.ToLower(kind), "hex"):
		v.Type, v.Bytes = strings.ToLower(kind), []byte{}
		for part := range strings.SplitSeq(data, ",") {
			if part = strings.TrimSpace(part); part == "" && len(data) == 0 {
				break
			}
			c, err := strconv.ParseUint(part, 16, 8)
			if err != nil {
				return v, fmt.Errorf("%q is no byte", part)
			}
			v.Bytes = append(v.Bytes, byte(c))
		}
	default:
		return v, fmt.Errorf("%s is of no type that there is", rest)
	}
	return v, nil
}

// quoted reads a text in quotes, and what stands behind it.
func quoted(line string) (text, rest string, err error) {
	if !strings.HasPrefix(line, `"`) {
		return "", "", errors.New("a name stands in quotes")
	}
	var w strings.Builder
	for i := 1; i < len(line); i++ {
		switch c := line[i]; {
		case c == '\\' && i+1 < len(line):
			i++
			w.WriteByte(line[i])
		case c == '"':
			return w.String(), line[i+1:], nil
		default:
			w.WriteByte(c)
		}
	}
	return "", "", errors.New("a text has no end")
}

// Is says whether a value is that of a key and a name, whose case does not count.
func (v Value) Is(key, name string) bool {
	return strings.EqualFold(v.Key, key) && strings.EqualFold(v.Name, name)
}

// Has says whether a file is one of the registry's, and sets a value of that name.
func Has(data []byte, name string) bool {
	text, err := Text(data)
	head := text[:min(len(text), 64)]
	return err == nil && (strings.Contains(head, "Windows Registry Editor") || strings.Contains(head, "REGEDIT4")) &&
		strings.Contains(strings.ToLower(text), `"`+strings.ToLower(name)+`"=`)
}
