ALTER TABLE `audit` ADD `clock` integer;--> statement-breakpoint
ALTER TABLE `audit` ADD `reader` integer DEFAULT 0 NOT NULL;