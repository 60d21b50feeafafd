CREATE TABLE `bench_changes` (
	`sequence` integer PRIMARY KEY NOT NULL,
	`change` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `bench_state` (
	`id` integer PRIMARY KEY NOT NULL,
	`cursor` integer NOT NULL,
	`sample_path` text,
	`macro_id` text
);
--> statement-breakpoint
CREATE TABLE `events` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`run_id` text NOT NULL,
	`at` integer DEFAULT (unixepoch() * 1000) NOT NULL
);
--> statement-breakpoint
CREATE TABLE `items` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`run_id` text NOT NULL,
	`ordinal` integer NOT NULL,
	`source_path` text NOT NULL,
	`relative_path` text NOT NULL,
	`size_bytes` integer NOT NULL,
	`modified_ms` integer NOT NULL,
	`state` text NOT NULL,
	`owner` text,
	`lease_until` integer,
	`token` integer DEFAULT 0 NOT NULL,
	`crashes` integer DEFAULT 0 NOT NULL,
	`interruptions` integer DEFAULT 0 NOT NULL,
	`finished_at` integer,
	`milliseconds` integer,
	`source_hash` text,
	`source_unchanged` integer,
	`width` integer,
	`height` integer,
	`format` text,
	`error` text,
	FOREIGN KEY (`run_id`) REFERENCES `runs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `items_run_ordinal` ON `items` (`run_id`,`ordinal`);--> statement-breakpoint
CREATE INDEX `items_state` ON `items` (`state`,`run_id`);--> statement-breakpoint
CREATE TABLE `loops` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`intake` text NOT NULL,
	`macro_uses` text NOT NULL,
	`deliveries` text NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `macro_revisions` (
	`macro_id` text NOT NULL,
	`revision` integer NOT NULL,
	`steps` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`macro_id`, `revision`),
	FOREIGN KEY (`macro_id`) REFERENCES `macros`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE TABLE `macros` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`notes` text DEFAULT '' NOT NULL,
	`tags` text DEFAULT '[]' NOT NULL,
	`created_at` integer NOT NULL,
	`updated_at` integer NOT NULL,
	`deleted_at` integer
);
--> statement-breakpoint
CREATE TABLE `results` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`item_id` integer NOT NULL,
	`delivery_id` text NOT NULL,
	`target_path` text NOT NULL,
	`size_bytes` integer,
	`hash` text,
	`width` integer,
	`height` integer,
	`constants` text,
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `results_item` ON `results` (`item_id`);--> statement-breakpoint
CREATE TABLE `runners` (
	`id` text PRIMARY KEY NOT NULL,
	`process_id` integer NOT NULL,
	`started_at` integer NOT NULL,
	`beat_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` text PRIMARY KEY NOT NULL,
	`number` integer NOT NULL,
	`loop_id` text NOT NULL,
	`loop_name` text NOT NULL,
	`state` text NOT NULL,
	`reason` text,
	`macros` text NOT NULL,
	`deliveries` text NOT NULL,
	`created_at` integer NOT NULL,
	`started_at` integer,
	`finished_at` integer
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`key` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
