/** What answers requests in a test; see `answering`. */
export const fetching: { answer: typeof fetch } = {
  answer: () => Promise.reject(new Error("No server answers here: say what it answers with `answering`.")),
};
