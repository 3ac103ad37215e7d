CREATE TABLE `knowledge` (
	`audit_id` text NOT NULL,
	`topic` text NOT NULL,
	`count` integer NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`audit_id`, `topic`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `probe` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`audit_id` text NOT NULL,
	`name` text NOT NULL,
	`raw` blob NOT NULL,
	`expected` text,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `probe_of_audit` ON `probe` (`audit_id`,`id`);--> statement-breakpoint
ALTER TABLE `audit` ADD `addresses_confirmed` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `audit` ADD `ordinal` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `message` ADD `received` integer;--> statement-breakpoint
ALTER TABLE `message` ADD `list_id` text;--> statement-breakpoint
ALTER TABLE `message` ADD `delivered_to` text;--> statement-breakpoint
ALTER TABLE `message` ADD `attachments` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `message` ADD `digest` text DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE INDEX `message_by_content` ON `message` (`audit_id`,`digest`);--> statement-breakpoint
CREATE INDEX `message_by_folder` ON `message` (`audit_id`,`folder`,`flags`,`number`);--> statement-breakpoint
CREATE INDEX `message_by_date` ON `message` (`audit_id`,date desc,`number`);--> statement-breakpoint
ALTER TABLE `source` ADD `repeated` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE VIRTUAL TABLE `message_text` USING fts5(subject, people, body, content='', contentless_delete=1, tokenize='unicode61 remove_diacritics 2');
