package live

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"leitstand/core/change"
	"leitstand/core/install"
)

// channelForm is a channel of Xfce's store in its file, of which only the elements of some properties are changed.
// (The files of xfconf's backend xfce-perchannel-xml.)
type channelForm struct{}

// element is a property, or the channel, with where it is in the file.
type element struct {
	name, kind, value  string
	values             []string // of an array of texts
	others             bool     // its array has what is no text
	from, inside       int      // its first byte, and the one behind its start
	end, to            int      // where its end begins, and the byte behind it
	list               []*element
	openedInOneElement bool // it is closed by its start
}

// parseChannel finds the elements of a channel.
func parseChannel(data []byte) (*element, error) {
	if rest, ok := bytes.CutPrefix(data, []byte(`<?xml version="1.1"`)); ok { // as newer daemons say, for the same
		data = append([]byte(`<?xml version="1.0"`), rest...)
	}
	d := xml.NewDecoder(bytes.NewReader(data))
	var open []*element
	for {
		from := int(d.InputOffset())
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil, errors.New("there is no channel in it")
		}
		if err != nil {
			return nil, err
		}
		switch t := t.(type) {
		case xml.StartElement:
			e := &element{from: from, inside: int(d.InputOffset())}
			for _, a := range t.Attr {
				switch a.Name.Local {
				case "name":
					e.name = a.Value
				case "type":
					e.kind = a.Value
				case "value":
					e.value = a.Value
				}
			}
			e.openedInOneElement = bytes.HasSuffix(data[:e.inside], []byte("/>"))
			if len(open) > 0 {
				in := open[len(open)-1]
				if t.Name.Local == "value" {
					in.values, in.others = append(in.values, e.value), in.others || e.kind != "string"
				} else {
					in.list = append(in.list, e)
				}
			}
			open = append(open, e)
		case xml.EndElement:
			e := open[len(open)-1]
			e.end, e.to = from, int(d.InputOffset())
			if open = open[:len(open)-1]; len(open) == 0 {
				return e, nil
			}
		}
	}
}

// find goes down a path as far as there are elements, and returns the last one with the names that it lacks.
func (e *element) find(path []string) (last *element, lacks []string) {
	for i, name := range path {
		var next *element
		for _, c := range e.list {
			if c.name == name {
				next = c
			}
		}
		if next == nil {
			return e, path[i:]
		}
		e = next
	}
	return e, nil
}

func channelKey(key string) (channel string, path []string) {
	channel, text, _ := strings.Cut(key, ":")
	return channel, strings.Split(strings.TrimPrefix(text, "/"), "/")
}

func (channelForm) get(data []byte, key string) (change.Value, error) {
	root, err := parseChannel(data)
	if err != nil {
		return nil, err
	}
	_, path := channelKey(key)
	e, lacks := root.find(path)
	if lacks != nil {
		return nil, nil
	}
	return e.valueOf(), nil
}

// names are those of the properties in a folder.
func (channelForm) names(data []byte, folder string) (list []string, err error) {
	root, err := parseChannel(data)
	if err != nil {
		return nil, err
	}
	_, path := channelKey(strings.TrimSuffix(folder, "/"))
	if e, lacks := root.find(path); lacks == nil {
		for _, c := range e.list {
			list = append(list, c.name)
		}
	}
	return list, nil
}

func (e *element) valueOf() change.Value {
	switch n, err := strconv.Atoi(e.value); {
	case e.kind == "empty" || e.kind == "":
		return nil
	case e.kind == "string":
		return change.Text(e.value)
	case e.kind == "bool":
		return change.Bool(strings.EqualFold(e.value, "true"))
	case e.kind == "int" && err == nil:
		return change.Int(n)
	case e.kind == "uint" && err == nil && n >= 0:
		return change.Unsigned(n)
	case e.kind == "array" && !e.others:
		return append(change.Texts{}, e.values...)
	}
	return change.Raw(e.kind + " " + e.value)
}

func (channelForm) set(data []byte, entry install.Entry) ([]byte, error) {
	channel, path := channelKey(entry.Key)
	if data == nil {
		if entry.Value == nil {
			return nil, nil
		}
		data = change.Channel(channel, nil)
	}
	root, err := parseChannel(data)
	if err != nil {
		return nil, err
	}
	e, lacks := root.find(path)
	switch {
	case entry.Value == nil && lacks != nil:
		return data, nil
	case entry.Value == nil:
		return e.removed(data, root, path), nil
	case lacks == nil:
		return e.replaced(data, path[len(path)-1], entry.Value)
	}
	property, err := spelled(lacks, entry.Value, len(path)-len(lacks)+1)
	if err != nil {
		return nil, err
	}
	return e.with(data, property), nil
}

// spelled is a property within those that its path lacks, at a depth.
func spelled(path []string, v change.Value, depth int) (string, error) {
	list, err := change.XfconfProperty(path, v)
	if err != nil {
		return "", err
	}
	text := change.SpellProperty(list, "\n"+strings.Repeat("  ", depth))
	return text, nil
}

// with is the file with a text at the end of an element.
func (e *element) with(data []byte, text string) []byte {
	if e.openedInOneElement {
		start, kind := strings.TrimSuffix(string(data[e.from:e.inside]), "/>"), "property"
		if strings.HasPrefix(start, "<channel") {
			kind = "channel"
		}
		return []byte(string(data[:e.from]) + start + ">" + text + "\n</" + kind + ">" + string(data[e.to:]))
	}
	at := e.end
	for at > e.inside && strings.ContainsRune(" \t\r\n", rune(data[at-1])) { // before the line of the end
		at--
	}
	return []byte(string(data[:at]) + text + "\n" + strings.TrimLeft(string(data[at:]), "\r\n"))
}

// replaced is the file with another value of the property.
func (e *element) replaced(data []byte, name string, v change.Value) ([]byte, error) {
	text, err := spelled([]string{name}, v, 0)
	if err != nil {
		return nil, err
	}
	text = strings.TrimPrefix(text, "\n")
	if len(e.list) > 0 { // those in it stay
		head := text[:strings.Index(text, ">")+1]
		first := e.list[0].from
		return []byte(string(data[:e.from]) + head + string(data[e.inside:first]) + string(data[first:])), nil
	}
	return []byte(string(data[:e.from]) + text + string(data[e.to:])), nil
}

// removed is the file without a property, and without those around it that have nothing else.
func (e *element) removed(data []byte, root *element, path []string) []byte {
	if len(e.list) > 0 {
		head := fmt.Sprintf("<property name=%q type=\"empty\">", e.name)
		return []byte(string(data[:e.from]) + head + string(data[e.list[0].from:]))
	}
	for n := len(path) - 1; n > 0; n-- {
		above, _ := root.find(path[:n])
		if len(above.list) > 1 || above.kind != "empty" {
			break
		}
		e = above
	}
	from := e.from
	for from > 0 && strings.ContainsRune(" \t\r\n", rune(data[from-1])) {
		from--
	}
	return []byte(string(data[:from]) + string(data[e.to:]))
}
