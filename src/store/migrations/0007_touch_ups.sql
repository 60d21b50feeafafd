CREATE TABLE `touch_ups` (
	`loop_id` text NOT NULL,
	`source_path` text NOT NULL,
	`size_bytes` integer NOT NULL,
	`modified_ms` integer NOT NULL,
	`source_hash` text NOT NULL,
	`states` text NOT NULL,
	`cursor` integer NOT NULL,
	`version` integer NOT NULL,
	`updated_at` integer NOT NULL,
	PRIMARY KEY(`loop_id`, `source_path`)
);
--> statement-breakpoint
ALTER TABLE `items` ADD `touch_up` text;