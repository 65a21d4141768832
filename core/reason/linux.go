package reason

// What holds for mechanisms of Linux.
var (
	BeyondX11 = system(
		"beyond-x11",
		"X11 sees no key beyond evdev code 247, and {key} is {code}",
		"X11 core protocol: keycodes end at 255",
	)
	NoKernelKey    = system("no-kernel-key", "the kernel has no key for {key}", "the kernel: input-event-codes.h")
	KeycodesDiffer = system(
		"keycodes-differ", "programs that look at keycodes (games, virtual machines) still see the old key", pressed,
	)
	LayoutForAllBoards = system(
		"layout-for-all-boards",
		"a layout holds for all boards alike, except in X11 sessions and under sway",
		"the libinput drivers of Wayland compositors",
	)
	BoardByNumbers = system(
		"board-by-numbers", "a session knows a board by its numbers only", "udev: what it tells sessions",
	)
	BoardChangesKeys = unwritten(
		"board-changes-keys", "layers, characters and chords by the keymap of one board",
	)
	BoardPluggedLater = system(
		"board-plugged-later", "a board that is plugged in later has it when its keymap is loaded again", pressed,
	)
	EditingChord = system(
		"editing-chord",
		"as the chord that most programs have for it, and terminals for something else",
		"conventions of programs",
	)
	OptionMakesMore = system(
		"option-makes-more",
		"option {option} makes more of {key} than keysyms, and a layout cannot take that back",
		"xkeyboard-config",
	)
	OptionMakesMoreOf = system(
		"option-makes-more-of",
		"option {option} makes more of {key} than keysyms, and a layout cannot do the same with another key",
		"xkeyboard-config",
	)
	TwoKeysGive = system(
		"two-keys-give", "two keys give {keysym}, by an option, and the other would become the modifier", pressed,
	)
	FirstKeyIsModifier = system(
		"first-key-is-modifier",
		"two keys give {keysym}, by an option, and only the first of them is the modifier",
		pressed,
	)
	HoldsNot = system(
		"holds-not", "a key cannot hold {modifiers} in a layout", "X Keyboard Extension: eight real modifiers",
	)
	HyperIsSeveral = system("hyper-is-several", "Hyper is {modifiers} here", pressed)
	HyperByOption  = system(
		"hyper-by-option",
		"{key} is Hyper by an option, and a layout makes no other key that Hyper",
		"xkeyboard-config",
	)
	LevelKept = system(
		"level-kept",
		"{key} gives nothing on a level where {press} gives a sign, which libxkbcommon keeps there",
		pressed,
	)
	OneCharacter = system(
		"one-character", "a key of a layout types one character", "X Keyboard Extension: a keysym a level",
	)
	OptionHasHyper = system(
		"option-has-hyper",
		"option {option} has made other keys Hyper, or the modifier Mod3 its own",
		"xkeyboard-config",
	)
	LayoutHasMod3 = system(
		"layout-has-mod3",
		"layout {layout} has its fifth level on Mod3, the one modifier that Hyper could have",
		"xkeyboard-config",
	)
	ModifierInLayers = system(
		"modifier-in-layers",
		"a key that is a modifier stays one in every layer of a layout",
		"X Keyboard Extension: the modifier map is for all groups",
	)
	TooManyGroups = system(
		"too-many-groups",
		"XKB has 4 groups for layouts and layers together; they are taken by the layouts ({layouts}) and the layers ({fit})",
		"X Keyboard Extension: four groups",
	)
	LayerOnX11 = system(
		"layer-on-x11",
		`only X11 has a layer for one key only: say session = "x11" if the machine has no Wayland session`,
		"libxkbcommon: no group latch",
	)
	LayerKeepsOthers = system(
		"layer-keeps-others",
		"in a layout, keys without a meaning in the layer keep their own",
		"X Keyboard Extension: groups",
	)
	LayerLeadsNowhere = system(
		"layer-leads-nowhere", "a layer leads to no other in a layout", "X Keyboard Extension: groups",
	)
	HeldHoldsLayer = system("held-holds-layer", "held down, it holds the layer", pressed)
	LeavesForFirst = system(
		"leaves-for-first", "another key than its own leaves the layer for the first layout", pressed,
	)
	LayoutSwitchPasses = system(
		"layout-switch-passes", "a key that switches to the next layout passes through the layer as well", pressed,
	)
	ModifierWhateverLayer = system(
		"modifier-whatever-layer",
		"a key is a modifier in a layout whatever the layer, or never",
		"X Keyboard Extension: the modifier map is for all groups",
	)
	CtrlByPlainKey = system(
		"ctrl-by-plain-key",
		"under X11, Ctrl with it reaches programs such as xterm as Ctrl with the plain key",
		pressed,
	)
	KeysAndCharactersOnly = system(
		"keys-and-characters-only", "a key of a layout gives keys and characters only", "X Keyboard Extension: actions",
	)
	ChordOnX11 = system(
		"chord-on-x11",
		`only X11 gives {what}: say session = "x11" if the machine has no Wayland session`,
		"libxkbcommon: no RedirectKey",
	)
	ChordByKeyAlone = unwritten("chord-by-key-alone", "a chord by a key alone")
	NoSides         = system(
		"no-sides", "a layout knows no sides of modifiers in a chord, and no Fn", "X Keyboard Extension: RedirectKey",
	)
	NoChordOf        = system("no-chord-of", "a layout makes no chord of {key}", "X Keyboard Extension: RedirectKey")
	NoX11Key         = system("no-x11-key", "X11 has no key {key}", "X11: keycodes of evdev")
	NoX11ChordWith   = system("no-x11-chord-with", "X11 has no chord with {key}", "X11: keycodes of evdev")
	OwnWithModifiers = system(
		"own-with-modifiers",
		"{key} does something of its own with modifiers under layout {layout}",
		"xkeyboard-config",
	)
	OwnThing        = system("own-thing", "{key} does something of its own under layout {layout}", "xkeyboard-config")
	ChangesKeyboard = system(
		"changes-keyboard", "{key} changes the keyboard itself under layout {layout}", "xkeyboard-config",
	)
	ComposeAnyModifier = system(
		"compose-any-modifier",
		"a compose sequence is of keysyms, whatever is held with them: a text is typed by a key alone or not at all",
		"Compose(5)",
	)
	ComposeTextLong = system(
		"compose-text-long",
		"a compose sequence holds at most {bytes} bytes of text",
		"libX11: the readers of Compose files",
	)
	ComposeNewKeysym = system(
		"compose-new-keysym", "{key} has a keysym that only newer programs know", "xkbcommon-keysyms.h by version",
	)
	ComposeModifier = system("compose-modifier", "{key} is a modifier, of which no text is composed", "Compose(5)")
	ComposesAccents = system(
		"composes-accents",
		"accents are composed by {key} and the key behind it, so that it types no text by itself",
		"libX11's own sequences",
	)
	ComposingPrograms = system(
		"composing-programs",
		"in programs that compose text as X11 does (GTK, Qt, Xlib), not in every terminal on Wayland",
		pressed,
	)
	NeedsCompose = system(
		"needs-compose",
		`only a running process sees what is typed; with a Compose key (remap "ContextMenu" { to = "Compose" }, or an option such as compose:menu) it could be typed after that`,
		"Compose(5)",
	)
	ComposeByCharacter = system(
		"compose-by-character", "under layout {layout} it is the key that types {character} there", pressed,
	)
	ComposeCaseCounts = system("compose-case-counts", "its case counts", "Compose(5)")
	ComposeLong       = system(
		"compose-long",
		"a compose sequence has at most {keys} keys behind the Compose key",
		"libX11: the readers of Compose files",
	)
	ComposeGoesOn = system(
		"compose-goes-on",
		`X11's own sequences go on behind "{word}", and of two that begin alike only the longer one counts`,
		"libX11's own sequences",
	)
	AfterCompose = system(
		"after-compose",
		"typed after the Compose key, and at once, in programs that compose text as X11 does (GTK, Qt, Xlib)",
		pressed,
	)
	SwayBoards        = unwritten("sway-boards", "sway has this setting for single boards")
	BoardWithoutChord = unwritten("board-without-chord", "a chord that one board does not have")
	NoConsoleModifier = system("no-console-modifier", "the console has no modifier {modifier}", "keymaps(5)")
	NoConsoleKeycode  = system("no-console-keycode", "the console has no keycode for {key}", "keymaps(5)")
	ConsoleTextLong   = system(
		"console-text-long",
		"a text of the console has at most {bytes} bytes, and no NUL",
		"the kernel: func_buf of the consoles",
	)
	WorkspaceIsConsole  = system("workspace-is-console", "a workspace is a console here", "keymaps(5)")
	NoConsoleAction     = system("no-console-action", "the console knows no windows and no such action", "keymaps(5)")
	NoConsolePrograms   = system("no-console-programs", "a keymap of the console starts no program", "keymaps(5)")
	NoTerminalCharacter = system(
		"no-terminal-character",
		"a terminal has no character for {chord}",
		"console_codes(4)",
	)
	ConsoleCharacterTwice = system(
		"console-character-twice", "the console gives characters, and {character} is on {chord} as well", "keymaps(5)",
	)
	CapsLockLess = system("caps-lock-less", "CapsLock changes nothing of the letter", "keymaps(5)")
)
