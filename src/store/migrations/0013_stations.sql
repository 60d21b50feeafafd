CREATE TABLE `stations` (
	`id` text PRIMARY KEY NOT NULL,
	`sign` text NOT NULL,
	`heard_at` integer NOT NULL
);
