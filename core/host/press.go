package host

import (
	"encoding/binary"
	"io"
)

// KeyEvent is what a driver says of a key: its event code, that it went down, came up or repeats, and the scan code
// that came before it, 0 for none.
type KeyEvent struct {
	Code, Value, Scan int
}

// The events of input devices. (The kernel's linux/input.h: a time of two words, a type, a code, a value.)
const (
	eventSize         = 24
	typeKey, typeMisc = 1, 4
	codeScan          = 4
)

// ReadKeys reads the events of an input device, of a system with words of 64 bits, and hands on those of keys until it
// ends or nobody wants more.
func ReadKeys(r io.Reader, key func(KeyEvent) bool) error {
	var event [eventSize]byte
	scan := 0
	for {
		if _, err := io.ReadFull(r, event[:]); err != nil {
			return err
		}
		kind, code := binary.LittleEndian.Uint16(event[16:]), binary.LittleEndian.Uint16(event[18:])
		value := int32(binary.LittleEndian.Uint32(event[20:]))
		switch {
		case kind == typeMisc && code == codeScan:
			scan = int(value)
		case kind == typeKey:
			if !key(KeyEvent{int(code), int(value), scan}) {
				return nil
			}
			scan = 0
		}
	}
}
