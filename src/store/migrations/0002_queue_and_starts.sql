CREATE TABLE `standing_starts` (
	`loop_id` text PRIMARY KEY NOT NULL,
	`due_at` integer NOT NULL,
	`intake_seen` text,
	`problem` text
);
--> statement-breakpoint
DROP INDEX `items_state`;--> statement-breakpoint
CREATE INDEX `items_state` ON `items` (`state`,`run_id`,`ordinal`);--> statement-breakpoint
ALTER TABLE `loops` ADD `start` text DEFAULT '{"when":"byHand"}' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `place` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `start_at` integer;--> statement-breakpoint
ALTER TABLE `runs` ADD `served_at` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
UPDATE `runs` SET `place` = `number`;
