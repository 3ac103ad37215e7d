ALTER TABLE `audit` ADD `place_field` text;--> statement-breakpoint
ALTER TABLE `audit` ADD `placed_field` text;--> statement-breakpoint
ALTER TABLE `audit` ADD `placed_count` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `message` ADD `places` text;--> statement-breakpoint
ALTER TABLE `message` ADD `as_file` text;