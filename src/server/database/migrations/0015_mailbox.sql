CREATE TABLE `fetched_message` (
	`audit_id` text NOT NULL,
	`folder` text NOT NULL,
	`validity` text NOT NULL,
	`uid` integer NOT NULL,
	`number` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `folder`, `validity`, `uid`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `fetched_by_number` ON `fetched_message` (`audit_id`,`number`);--> statement-breakpoint
CREATE TABLE `look` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`audit_id` text NOT NULL,
	`source_id` text,
	`started_at` integer NOT NULL,
	`finished_at` integer,
	`added` integer DEFAULT 0 NOT NULL,
	`flagged` integer DEFAULT 0 NOT NULL,
	`gone` integer DEFAULT 0 NOT NULL,
	`trouble` text DEFAULT '' NOT NULL,
	`script` text,
	`before` text,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `look_of_audit` ON `look` (`audit_id`,`id`);--> statement-breakpoint
CREATE TABLE `mail_server` (
	`audit_id` text PRIMARY KEY NOT NULL,
	`host` text NOT NULL,
	`port` integer NOT NULL,
	`security` text NOT NULL,
	`user` text NOT NULL,
	`sieve_port` integer,
	`folders` text NOT NULL,
	`renamed` text DEFAULT '{}' NOT NULL,
	`since` integer,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `trusted_certificate` (
	`audit_id` text NOT NULL,
	`host` text NOT NULL,
	`port` integer NOT NULL,
	`fingerprint` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `host`, `port`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `audit` ADD `folder_uses` text DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE `source` ADD `mailbox` text;