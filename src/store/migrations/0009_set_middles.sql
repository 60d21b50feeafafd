CREATE TABLE `set_middles` (
	`loop_id` text NOT NULL,
	`key` text NOT NULL,
	`values` text NOT NULL,
	`pictures` integer NOT NULL,
	`ground` text NOT NULL,
	`measured_at` integer NOT NULL,
	`used` integer NOT NULL,
	PRIMARY KEY(`loop_id`, `key`)
);
