CREATE TABLE `ended_sessions` (
	`nonce` text PRIMARY KEY NOT NULL,
	`until` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `picture_numbers` (
	`loop_id` text NOT NULL,
	`number_set` integer NOT NULL,
	`scope` text NOT NULL,
	`source_path` text NOT NULL,
	`ordinal` integer NOT NULL,
	PRIMARY KEY(`loop_id`, `number_set`, `scope`, `source_path`)
);
--> statement-breakpoint
CREATE UNIQUE INDEX `picture_numbers_ordinal` ON `picture_numbers` (`loop_id`,`number_set`,`scope`,`ordinal`);--> statement-breakpoint
ALTER TABLE `bench_state` ADD `base` text;--> statement-breakpoint
ALTER TABLE `bench_state` ADD `folded` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `items` ADD `remarks` text;--> statement-breakpoint
CREATE INDEX `items_finished` ON `items` (`run_id`,`finished_at`);--> statement-breakpoint
CREATE INDEX `items_source` ON `items` (`source_path`);--> statement-breakpoint
ALTER TABLE `loops` ADD `version` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `loops` ADD `changed_by` text;--> statement-breakpoint
ALTER TABLE `loops` ADD `number_set` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runners` ADD `trouble` text;--> statement-breakpoint
ALTER TABLE `runs` ADD `making` text;--> statement-breakpoint
ALTER TABLE `runs` ADD `damaged` text DEFAULT 'fail' NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `left_out` text;--> statement-breakpoint
ALTER TABLE `runs` ADD `waiting` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `working` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `done` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `failed` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `skipped` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `delivered_bytes` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `compared` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `runs` ADD `changed` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX `runs_loop` ON `runs` (`loop_id`,`making`);--> statement-breakpoint
CREATE INDEX `runs_state` ON `runs` (`state`);
--> statement-breakpoint
UPDATE `runs` SET
	`waiting` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `state` = 'waiting'),
	`working` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `state` = 'working'),
	`done` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `state` = 'done'),
	`failed` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `state` = 'failed'),
	`skipped` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `state` = 'skipped'),
	`compared` = (SELECT count(`source_unchanged`) FROM `items` WHERE `run_id` = `runs`.`id`),
	`changed` = (SELECT count(*) FROM `items` WHERE `run_id` = `runs`.`id` AND `source_unchanged` = 0),
	`delivered_bytes` = (SELECT coalesce(sum(`results`.`size_bytes`), 0) FROM `results` JOIN `items` ON `items`.`id` = `results`.`item_id` WHERE `items`.`run_id` = `runs`.`id`);
--> statement-breakpoint
CREATE TRIGGER `items_counted` AFTER INSERT ON `items` BEGIN
	UPDATE `runs` SET
		`waiting` = `waiting` + (new.`state` = 'waiting'),
		`working` = `working` + (new.`state` = 'working'),
		`done` = `done` + (new.`state` = 'done'),
		`failed` = `failed` + (new.`state` = 'failed'),
		`skipped` = `skipped` + (new.`state` = 'skipped')
	WHERE `id` = new.`run_id`;
END;
--> statement-breakpoint
CREATE TRIGGER `items_recounted` AFTER UPDATE OF `state` ON `items` WHEN old.`state` <> new.`state` BEGIN
	UPDATE `runs` SET
		`waiting` = `waiting` + (new.`state` = 'waiting') - (old.`state` = 'waiting'),
		`working` = `working` + (new.`state` = 'working') - (old.`state` = 'working'),
		`done` = `done` + (new.`state` = 'done') - (old.`state` = 'done'),
		`failed` = `failed` + (new.`state` = 'failed') - (old.`state` = 'failed'),
		`skipped` = `skipped` + (new.`state` = 'skipped') - (old.`state` = 'skipped')
	WHERE `id` = new.`run_id`;
END;
--> statement-breakpoint
CREATE TRIGGER `items_compared` AFTER UPDATE OF `source_unchanged` ON `items` WHEN old.`source_unchanged` IS NOT new.`source_unchanged` BEGIN
	UPDATE `runs` SET
		`compared` = `compared` + (new.`source_unchanged` IS NOT NULL) - (old.`source_unchanged` IS NOT NULL),
		`changed` = `changed` + (new.`source_unchanged` IS 0) - (old.`source_unchanged` IS 0)
	WHERE `id` = new.`run_id`;
END;
--> statement-breakpoint
CREATE TRIGGER `results_weighed` AFTER UPDATE OF `size_bytes` ON `results` BEGIN
	UPDATE `runs` SET `delivered_bytes` = `delivered_bytes` + coalesce(new.`size_bytes`, 0) - coalesce(old.`size_bytes`, 0)
	WHERE `id` = (SELECT `run_id` FROM `items` WHERE `id` = new.`item_id`);
END;
