// Every key of the program, in the order of the list on "?". Who handles the keys
// of a place must handle all of them (see useKeys), so that the list is true.

export interface Key {
  /** As the library of keys writes them: https://github.com/jamiebuilds/tinykeys#keybinding-syntax */
  keys: string[];
  /** As people read them. */
  shown: string;
  does: string;
  /** Also while a number is being edited; texts keep their own keys. */
  inNumbers?: boolean;
}

const both = (key: string) => [key, `Shift+${key}`];

export const keyList = {
  everywhere: {
    play: { keys: ["Space"], shown: "Space", does: "Play and stop" },
    source: { keys: ["m"], shown: "M", does: "Mine, reference, both" },
    views: {
      keys: ["1", "2", "3", "4", "5", "6", "7"],
      shown: "1 to 7",
      does: "Reference, Sounds, Groove, Mix, Arrange, Compare, Export",
    },
    undo: { keys: ["$mod+z"], shown: "Ctrl Z", does: "Undo", inNumbers: true },
    redo: { keys: ["$mod+Shift+z", "$mod+y"], shown: "Ctrl Shift Z", does: "Redo", inNumbers: true },
    click: { keys: ["c"], shown: "C", does: "Click on and off" },
    feel: { keys: ["e"], shown: "E", does: "Feel off and on, at the same spot" },
    follow: { keys: ["f"], shown: "F", does: "Follow what plays, or stay" },
    theme: { keys: ["n"], shown: "N", does: "Light or dark theme" },
    help: { keys: ["Shift+?", "?"], shown: "?", does: "This list" },
  },
  feel: {
    straight: { keys: ["s"], shown: "S", does: "Reset the feel" },
    back: {
      keys: ["j", "Shift+j"],
      shown: "J",
      does: "Pull everything back by 5 ms; with Shift, push it",
    },
    tap: { keys: ["Shift+t"], shown: "Shift T", does: "Tap the tempo" },
    loop: { keys: ["u"], shown: "U", does: "Loop the selected bars, or the whole groove" },
  },
  time: {
    earlier: { keys: [","], shown: ",", does: "Earlier" },
    later: { keys: ["."], shown: ".", does: "Later" },
    closer: { keys: ["+", "=", "Shift++"], shown: "+", does: "Zoom in; also Ctrl and the wheel" },
    wider: { keys: ["-"], shown: "−", does: "Zoom out" },
    whole: { keys: ["0"], shown: "0", does: "All of it" },
  },
  overview: {
    scroll: { keys: ["ArrowLeft", "ArrowRight"], shown: "← →", does: "On the overview: scroll by a quarter" },
    page: { keys: ["PageUp", "PageDown"], shown: "Page ↑ ↓", does: "By all that is on show" },
    ends: { keys: ["Home", "End"], shown: "Home, End", does: "To the beginning, to the end" },
  },
  groove: {
    cursor: { keys: ["ArrowLeft", "ArrowRight"], shown: "← →", does: "Move the cursor by one step" },
    ends: { keys: ["Home", "End"], shown: "Home, End", does: "To the beginning, to the end of the row" },
    reach: {
      keys: ["Shift+ArrowLeft", "Shift+ArrowRight"],
      shown: "Shift ← →",
      does: "Extend the selection",
    },
    rows: {
      keys: ["$mod+ArrowUp", "$mod+ArrowDown"],
      shown: "Ctrl ↑ ↓",
      does: "The row above, the row below",
    },
    place: { keys: ["Enter"], shown: "Enter", does: "Place or remove a hit" },
    velocity: {
      keys: [...both("ArrowUp"), ...both("ArrowDown")],
      shown: "↑ ↓",
      does: "Velocity of the selection, by 5; with Shift, by 1",
    },
    nudge: {
      keys: ["Alt+ArrowLeft", "Alt+ArrowRight", "Alt+Shift+ArrowLeft", "Alt+Shift+ArrowRight"],
      shown: "Alt ← →",
      does: "Nudge by 1 ms; with Shift, by 0.2 ms",
    },
    move: {
      keys: ["$mod+ArrowLeft", "$mod+ArrowRight"],
      shown: "Ctrl ← →",
      does: "Move the selection by a step",
    },
    copy: { keys: ["$mod+c"], shown: "Ctrl C", does: "Copy" },
    paste: { keys: ["$mod+v"], shown: "Ctrl V", does: "Paste at the cursor" },
    repeat: { keys: ["$mod+d"], shown: "Ctrl D", does: "Repeat one bar later" },
    remove: { keys: ["Delete", "Backspace"], shown: "Delete", does: "Remove the selection" },
    row: { keys: ["a"], shown: "A", does: "Select the whole row" },
    all: { keys: ["$mod+a", "Shift+a"], shown: "Ctrl A", does: "Select all rows" },
    hear: { keys: ["p"], shown: "P", does: "Play the voice" },
    ghost: { keys: ["g"], shown: "G", does: "Make it a ghost" },
    accent: { keys: ["h"], shown: "H", does: "Accent it" },
    drop: { keys: ["d"], shown: "D", does: "Mute it, and bring it back" },
    roll: { keys: ["r"], shown: "R", does: "A roll over a step, and back" },
    flam: { keys: ["Shift+r"], shown: "Shift R", does: "A flam, and back" },
    open: { keys: ["o"], shown: "O", does: "Convert rolls and flams to single hits" },
    shift: { keys: ["[", "]"], shown: "[ ]", does: "Shift the row by a step, round" },
    octave: { keys: ["PageUp", "PageDown"], shown: "Page ↑ ↓", does: "An octave up, down" },
    scale: {
      keys: ["Shift+PageUp", "Shift+PageDown"],
      shown: "Shift Page ↑ ↓",
      does: "Up or down a scale degree",
    },
    like: { keys: ["l"], shown: "L", does: "Select what is like this one" },
    odd: { keys: ["Shift+l"], shown: "Shift L", does: "Keep every second bar of the selection" },
    alone: { keys: ["w"], shown: "W", does: "Solo the row (adds to other soloed rows)" },
    mute: { keys: ["Shift+w"], shown: "Shift W", does: "Mute the row" },
    straighten: { keys: ["q"], shown: "Q", does: "Quantize the selection to the feel" },
  },
  mix: {
    ab: {
      keys: ["b", "Shift+b"],
      shown: "B",
      does: "A/B the effect, or the row's chain, at matched loudness; with Shift, the whole mix",
    },
    off: { keys: ["o"], shown: "O", does: "Bypass the effect, or make it active" },
    remove: { keys: ["Delete", "Backspace"], shown: "Delete", does: "Remove the effect" },
    earlier: { keys: ["Alt+ArrowLeft"], shown: "Alt ←", does: "Move the effect to the left" },
    later: { keys: ["Alt+ArrowRight"], shown: "Alt →", does: "Move the effect to the right" },
    effects: { keys: ["ArrowLeft", "ArrowRight"], shown: "← →", does: "The effect before, the next effect" },
    rows: { keys: ["ArrowUp", "ArrowDown"], shown: "↑ ↓", does: "The row above, the row below" },
    copy: { keys: ["$mod+c"], shown: "Ctrl C", does: "Copy the effect, or the whole chain" },
    paste: { keys: ["$mod+v"], shown: "Ctrl V", does: "Paste at the end of the row's chain" },
  },
  arrange: {
    cursor: { keys: ["ArrowLeft", "ArrowRight"], shown: "← →", does: "The cursor by a bar" },
    ends: { keys: ["Home", "End"], shown: "Home, End", does: "To the beginning, to the last bar" },
    sections: {
      keys: ["Shift+ArrowLeft", "Shift+ArrowRight"],
      shown: "Shift ← →",
      does: "The section before, the next section",
    },
    from: { keys: ["Enter"], shown: "Enter", does: "Play from the cursor" },
    loop: { keys: ["u"], shown: "U", does: "Loop the range, the section, or all" },
    earlier: { keys: ["Alt+ArrowLeft"], shown: "Alt ←", does: "Move the section to the left" },
    later: { keys: ["Alt+ArrowRight"], shown: "Alt →", does: "Move the section to the right" },
    split: { keys: ["s"], shown: "S", does: "Split the section at the cursor" },
    repeat: { keys: ["$mod+d"], shown: "Ctrl D", does: "Repeat the section" },
    remove: { keys: ["Delete", "Backspace"], shown: "Delete", does: "Remove what is chosen" },
    marker: { keys: ["k"], shown: "K", does: "A marker at the cursor" },
    jump: { keys: ["j"], shown: "J", does: "While it plays: to the next section at the end of the bar" },
  },
  reference: {
    hits: { keys: ["ArrowLeft", "ArrowRight"], shown: "← →", does: "The hit before, the next hit" },
    ends: { keys: ["Home", "End"], shown: "Home, End", does: "The first hit, the last hit" },
    weigh: {
      keys: [...both("ArrowUp"), ...both("ArrowDown")],
      shown: "↑ ↓",
      does: "Louder, softer: by 5; with Shift, by 1",
    },
    move: {
      keys: ["Alt+ArrowLeft", "Alt+ArrowRight", "Alt+Shift+ArrowLeft", "Alt+Shift+ArrowRight"],
      shown: "Alt ← →",
      does: "Move the hit by 1 ms; with Shift, by 0.2 ms",
    },
    drop: { keys: ["x", "Delete", "Backspace"], shown: "X, Delete", does: "Remove the hit" },
  },
  listening: {
    listen: { keys: ["l"], shown: "L", does: "Listen closely to what is on show" },
  },
  tapping: {
    tap: { keys: ["t"], shown: "T", does: "Tap the tempo" },
  },
} as const satisfies Record<string, Record<string, Key>>;

export type Place = keyof typeof keyList;

/** What stands over the keys of a place; nothing where they go on from the place before. */
export const placeNames: Record<Place, string> = {
  everywhere: "Everywhere",
  feel: "In Groove",
  time: "On a time axis",
  overview: "",
  groove: "On a row of the groove",
  mix: "In Mix",
  arrange: "In Arrange",
  reference: "On a row of the reference",
  listening: "In Reference",
  tapping: "",
};

/** What the mouse does, which no key does. */
export const gestures: Partial<Record<Place, [string, string][]>> = {
  everywhere: [["Escape", "Cancel the drag"]],
  time: [["Shift, wheel", "Scroll"]],
  groove: [["Right click", "Remove a hit"]],
  reference: [["Double click", "Add a hit"]],
};
