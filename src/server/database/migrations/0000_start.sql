CREATE TABLE `analysis` (
	`audit_id` text NOT NULL,
	`chain_hash` text NOT NULL,
	`count` integer NOT NULL,
	`findings` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `chain_hash`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `atom` (
	`audit_id` text NOT NULL,
	`key` text NOT NULL,
	`count` integer NOT NULL,
	`bits` blob NOT NULL,
	PRIMARY KEY(`audit_id`, `key`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `audit` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`created_at` integer NOT NULL,
	`chain` text NOT NULL,
	`own_addresses` text NOT NULL,
	`message_count` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `change` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`audit_id` text NOT NULL,
	`edits` text NOT NULL,
	`words` text NOT NULL,
	`why` text NOT NULL,
	`changed_messages` integer NOT NULL,
	`undone` integer NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `change_of_audit` ON `change` (`audit_id`,`id`);--> statement-breakpoint
CREATE TABLE `column_piece` (
	`audit_id` text NOT NULL,
	`column` text NOT NULL,
	`first` integer NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`audit_id`, `column`, `first`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `job` (
	`id` text PRIMARY KEY NOT NULL,
	`audit_id` text NOT NULL,
	`kind` text NOT NULL,
	`parameters` text NOT NULL,
	`state` text NOT NULL,
	`message` text NOT NULL,
	`created_at` integer NOT NULL,
	`finished_at` integer,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `message` (
	`audit_id` text NOT NULL,
	`number` integer NOT NULL,
	`source_id` text NOT NULL,
	`folder` text NOT NULL,
	`flags` text NOT NULL,
	`message_id` text,
	`subject` text NOT NULL,
	`from_name` text NOT NULL,
	`from_address` text NOT NULL,
	`to_addresses` text NOT NULL,
	`date` integer,
	`octets` integer NOT NULL,
	`size` integer NOT NULL,
	`from_line` text,
	`oddities` text NOT NULL,
	PRIMARY KEY(`audit_id`, `number`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `raw_piece` (
	`audit_id` text NOT NULL,
	`number` integer NOT NULL,
	`piece` integer NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`audit_id`, `number`, `piece`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `script` (
	`id` text PRIMARY KEY NOT NULL,
	`audit_id` text NOT NULL,
	`file_name` text NOT NULL,
	`digest` text NOT NULL,
	`source` text NOT NULL,
	`rules` integer NOT NULL,
	`blocks` integer NOT NULL,
	`faults` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `source` (
	`id` text PRIMARY KEY NOT NULL,
	`audit_id` text NOT NULL,
	`file_name` text NOT NULL,
	`digest` text NOT NULL,
	`folder` text NOT NULL,
	`bytes` integer NOT NULL,
	`state` text NOT NULL,
	`first_message` integer NOT NULL,
	`messages` integer NOT NULL,
	`statement` text NOT NULL,
	`created_at` integer NOT NULL,
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `verification` (
	`audit_id` text NOT NULL,
	`chain_hash` text NOT NULL,
	`count` integer NOT NULL,
	`script_hash` text NOT NULL,
	`record` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `chain_hash`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
