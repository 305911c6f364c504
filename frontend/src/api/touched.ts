/** What a change touches: the beginnings of the keys of everything that has to be asked for again. */
export type Touched = readonly (readonly (string | number)[])[];

/** The tray, its counts, what is found, timers, what is to be looked at again. */
const BENCH = [["bench"]] as const;

export const NOTHING: Touched = [];

/** Something happened to a job: its own pages, its controller's, and what the bench shows of it. What
 * may be done with its takes depends on it too. */
export const ofJob = (id: number): Touched => [["job", id], ["controller"], ["take"], ...BENCH];

/** Parts moved, were ordered, looked at: the shelf, and what jobs may take of it. */
export const ofShelf: Touched = [["shelf"], ["job"], ...BENCH];

/** What a model is, or how it is opened: its limits are in every verdict on it. */
export const ofModels: Touched = [["model"], ["job"], ["take"], ["controller"], ...BENCH];

/** What the bench can see: it is in every uncertainty. */
export const ofStudies: Touched = [["study"], ["job"], ["take"], ["controller"], ...BENCH];

/** A job, with parts of the shelf that went in or came back. */
export const ofJobAndShelf = (id: number): Touched => [...ofJob(id), ["shelf"]];

/** A take that ended, or had a step done again. */
export const ofTake = (job: number): Touched => [...ofJob(job), ["samples"], ["study"], ["model"]];

/** A function check as it runs. */
export const ofCheck = (job: number): Touched => [["job", "check"], ...ofJob(job)];
