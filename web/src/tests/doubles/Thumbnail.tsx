/** Stands for the small picture of a study, which needs a graphics card. */
export const Thumbnail = () => null;
