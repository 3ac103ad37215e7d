DROP TABLE `analysis`;--> statement-breakpoint
CREATE TABLE `analysis` (
	`audit_id` text NOT NULL,
	`chain_hash` text NOT NULL,
	`count` integer NOT NULL,
	`statements` blob NOT NULL,
	`repairs` blob NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`audit_id`, `chain_hash`),
	FOREIGN KEY (`audit_id`) REFERENCES `audit`(`id`) ON UPDATE no action ON DELETE cascade
);
