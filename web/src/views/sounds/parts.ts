// The parts of a recipe as the screen names and colours them.
export const partNames: Record<string, string> = {
  body: "Body",
  noise: "Noise",
  metal: "Metal",
  snap: "Snap",
  drive: "Drive",
  cut: "Whole",
};

export const partColour: Record<string, string> = {
  body: "var(--kick)",
  noise: "var(--snare)",
  metal: "var(--hat)",
  snap: "var(--open)",
  drive: "var(--late)",
};
