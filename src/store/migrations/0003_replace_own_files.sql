ALTER TABLE `results` ADD `replaces` text;--> statement-breakpoint
CREATE INDEX `results_target` ON `results` (`target_path`);