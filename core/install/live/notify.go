package live

import (
	"time"

	"github.com/godbus/dbus/v5"
)

// Button is an answer that a notification offers: its name, and what it says.
type Button struct{ Name, Says string }

const notifications = "org.freedesktop.Notifications"

// Ask shows a notification with buttons, which the pointer can reach, and waits until one is pressed, or for some time;
// "" for none. (The Desktop Notifications Specification.)
func (m *Machine) Ask(title, text string, buttons []Button, patience time.Duration) (pressed string, err error) {
	o, err := m.object(notifications, "/org/freedesktop/Notifications")
	if err != nil {
		return "", err
	}
	if err := m.bus.conn.AddMatchSignal(dbus.WithMatchInterface(notifications)); err != nil {
		return "", err
	}
	signals := make(chan *dbus.Signal, 16)
	m.bus.conn.Signal(signals)
	defer m.bus.conn.RemoveSignal(signals)
	var actions []string
	for _, b := range buttons {
		actions = append(actions, b.Name, b.Says)
	}
	const critical = byte(2) // it stays until it is answered
	var id uint32
	hints := map[string]dbus.Variant{"urgency": dbus.MakeVariant(critical)}
	err = o.Call(notifications+".Notify", 0, "leitstand", uint32(0), "input-keyboard", title, text, actions, hints,
		int32(patience.Milliseconds())).Store(&id)
	if err != nil {
		return "", err
	}
	over := time.After(patience)
	for {
		select {
		case s := <-signals:
			if s.Name == notifications+".ActionInvoked" && len(s.Body) == 2 && s.Body[0] == id {
				pressed, _ = s.Body[1].(string)
				return pressed, nil
			}
		case <-over:
			return "", o.Call(notifications+".CloseNotification", 0, id).Err
		}
	}
}
