package keys

// buttons are the further buttons of a mouse, which rules may take as keys. They
// have no W3C code, so the names are ours; the numbers are of HID page 0x09 and
// the kernel's BTN_ codes.
var buttons = []row{
	{"MouseMiddle", Mouse, 0x090003, 0x112, "", no, 0x04, no},
	{"MouseBack", Mouse, 0x090004, 0x113, "", no, 0x05, no},
	{"MouseForward", Mouse, 0x090005, 0x114, "", no, 0x06, no},
	{"Mouse6", Mouse, 0x090006, 0x115, "", no, no, no},
	{"Mouse7", Mouse, 0x090007, 0x116, "", no, no, no},
	{"Mouse8", Mouse, 0x090008, 0x117, "", no, no, no},
}

// Buttons lists the buttons of a mouse.
func Buttons() []Key {
	list := make([]Key, len(buttons))
	for i := range buttons {
		list[i] = Key(len(table) + i + 1)
	}
	return list
}

// IsModifier says whether the key is a modifier by its nature.
func (k Key) IsModifier() bool {
	switch k.String() {
	case "AltLeft",
		"AltRight",
		"ControlLeft",
		"ControlRight",
		"MetaLeft",
		"MetaRight",
		"ShiftLeft",
		"ShiftRight",
		"CapsLock",
		"NumLock",
		"Fn":
		return true
	}
	return false
}
