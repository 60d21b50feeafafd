-- What decides what a run makes is noted anew, from steps as they read now: a step whose settings have other names since has not changed.
UPDATE runs SET making = NULL;
