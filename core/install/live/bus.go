package live

import (
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/godbus/dbus/v5"

	"leitstand/core/change"
	"leitstand/core/install"
)

// bus is the session's bus, once it is asked for.
type bus struct {
	once sync.Once
	conn *dbus.Conn
	err  error
	kept map[string]bool // the stores that somebody keeps though this session is over
}

// connect connects to the session's bus, once.
func (m *Machine) connect() error {
	m.bus.once.Do(func() {
		address := m.env("DBUS_SESSION_BUS_ADDRESS")
		if dir := m.env("XDG_RUNTIME_DIR"); address == "" && dir != "" {
			address = "unix:path=" + dir + "/bus"
		}
		if address == "" {
			m.bus.err = errors.New("there is no session bus here; run this in the desktop")
			return
		}
		m.bus.conn, m.bus.err = dial(address)
		if isOver(m.bus.err) && m.env("DBUS_SESSION_BUS_ADDRESS") != "" {
			m.bus.err = fmt.Errorf("%w: %w", errOver, m.bus.err)
			m.bus.kept = m.keptElsewhere()
		}
	})
	return m.bus.err
}

// dial connects to a bus. One that is ending takes connections and drops them; a moment later nobody listens.
func dial(address string) (conn *dbus.Conn, err error) {
	for patience := time.Now().Add(ending); ; time.Sleep(ending / 20) {
		conn, err = dbus.Connect(address)
		dropped := errors.Is(err, syscall.ECONNRESET) || errors.Is(err, syscall.EPIPE) || errors.Is(err, io.EOF)
		if !dropped || time.Now().After(patience) {
			return conn, err
		}
	}
}

// object is an object of a program on the session's bus.
func (m *Machine) object(program, path string) (dbus.BusObject, error) {
	if err := m.connect(); err != nil {
		return nil, fmt.Errorf("the session's bus: %w", err)
	}
	return m.bus.conn.Object(program, dbus.ObjectPath(path)), nil
}

const xfconf = "org.xfce.Xfconf"

// xfconf is the user's own value of a property: the daemon says what it is, and where the user's file has none, one
// that is the system's own.
func (m *Machine) xfconf(key string) (change.Value, error) {
	o, err := m.object(xfconf, "/org/xfce/Xfconf")
	if err != nil {
		return nil, err
	}
	channel, path, _ := strings.Cut(key, ":")
	var exists bool
	if err := o.Call(xfconf+".PropertyExists", 0, channel, path).Store(&exists); err != nil || !exists {
		return nil, err
	}
	var v dbus.Variant
	if err := o.Call(xfconf+".GetProperty", 0, channel, path).Store(&v); err != nil {
		return nil, err
	}
	value := ofXfconf(v)
	own, err := m.filed(change.Xfconf, key)
	if err != nil || own != nil {
		return value, err
	}
	for _, dir := range m.configDirs() {
		file, err := m.File(dir + "/xfce4/xfconf/xfce-perchannel-xml/" + channel + ".xml")
		if err != nil || file.Data == nil {
			continue
		}
		if stock, err := (channelForm{}).get(file.Data, key); err == nil && same(stock, value) {
			return nil, nil
		}
	}
	return value, nil
}

// xfconfKeys are the properties in a folder.
func (m *Machine) xfconfKeys(folder string) (list []string, err error) {
	o, err := m.object(xfconf, "/org/xfce/Xfconf")
	if err != nil {
		return nil, err
	}
	channel, path, _ := strings.Cut(strings.TrimSuffix(folder, "/"), ":")
	var all map[string]dbus.Variant
	var fault dbus.Error
	err = o.Call(xfconf+".GetAllProperties", 0, channel, path).Store(&all)
	if errors.As(err, &fault) && strings.HasSuffix(fault.Name, "NotFound") {
		return nil, nil // there is no such folder yet
	}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		if strings.HasPrefix(name, path+"/") {
			list = append(list, channel+":"+name)
		}
	}
	return list, err
}

// configDirs are the folders of settings that stand behind the user's. (The XDG Base Directory specification.)
func (m *Machine) configDirs() []string {
	dirs := m.env("XDG_CONFIG_DIRS")
	if dirs == "" {
		dirs = "/etc/xdg"
	}
	return strings.Split(dirs, ":")
}

func same(a, b change.Value) bool {
	return fmt.Sprintf("%T %v", a, a) == fmt.Sprintf("%T %v", b, b)
}

// ofXfconf is a value of the daemon's.
func ofXfconf(v dbus.Variant) change.Value {
	switch x := v.Value().(type) {
	case string:
		return change.Text(x)
	case int32:
		return change.Int(x)
	case uint32:
		return change.Unsigned(x)
	case bool:
		return change.Bool(x)
	case []dbus.Variant:
		list := change.Texts{}
		for _, item := range x {
			text, ok := item.Value().(string)
			if !ok {
				return change.Raw(v.String())
			}
			list = append(list, text)
		}
		return list
	}
	return change.Raw(v.String())
}

// setXfconf sets properties, or leaves them to what stands behind the user's.
func (m *Machine) setXfconf(list []install.Entry) error {
	o, err := m.object(xfconf, "/org/xfce/Xfconf")
	if err != nil {
		return err
	}
	for _, e := range list {
		channel, path, _ := strings.Cut(e.Key, ":")
		method, arguments := ".ResetProperty", []any{channel, path, false} // but not what is below it
		if e.Value != nil {
			v, err := asXfconf(e.Value)
			if err != nil {
				return err
			}
			method, arguments = ".SetProperty", []any{channel, path, v}
		}
		if err := o.Call(xfconf+method, 0, arguments...).Err; err != nil {
			return err
		}
	}
	return nil
}

func asXfconf(v change.Value) (dbus.Variant, error) {
	switch v := v.(type) {
	case change.Text:
		return dbus.MakeVariant(string(v)), nil
	case change.Int:
		return dbus.MakeVariant(int32(v)), nil
	case change.Unsigned:
		return dbus.MakeVariant(uint32(v)), nil
	case change.Bool:
		return dbus.MakeVariant(bool(v)), nil
	case change.Texts:
		list := make([]dbus.Variant, len(v))
		for i, text := range v {
			list[i] = dbus.MakeVariant(text)
		}
		return dbus.MakeVariant(list), nil
	case change.Raw:
		if kind, text, ok := strings.Cut(string(v), " "); ok && kind == "double" {
			return dbus.ParseVariant(text, dbus.ParseSignatureMust("d"))
		}
		return dbus.ParseVariant(string(v), dbus.Signature{})
	case change.Bytes: // the store has no such type
	}
	return dbus.Variant{}, fmt.Errorf("%T is no value of Xfce's store", v)
}
