CREATE TABLE `repeat` (
	`audit_id` text NOT NULL,
	`number` integer NOT NULL,
	`source_id` text NOT NULL,
	PRIMARY KEY(`audit_id`, `number`, `source_id`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `repeat_of_source` ON `repeat` (`audit_id`,`source_id`,`number`);--> statement-breakpoint
ALTER TABLE `audit` ADD `removed_count` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `audit` ADD `mail_edition` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `message` ADD `outgoing` integer DEFAULT false NOT NULL;--> statement-breakpoint
CREATE INDEX `message_by_author` ON `message` (`audit_id`,lower(from_address),`number`) WHERE outgoing;--> statement-breakpoint
ALTER TABLE `source` ADD `path` text;--> statement-breakpoint
ALTER TABLE `source` ADD `folders` text DEFAULT '[]' NOT NULL;