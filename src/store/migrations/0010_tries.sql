ALTER TABLE `runs` ADD `is_try` integer DEFAULT false NOT NULL;--> statement-breakpoint
UPDATE `runs` SET `is_try` = 1 WHERE `loop_name` LIKE 'Try of %';
