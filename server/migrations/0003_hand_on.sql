CREATE TABLE `moments` (
	`song_id` text NOT NULL,
	`revision` integer NOT NULL,
	`name` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`song_id`, `revision`),
	FOREIGN KEY (`song_id`) REFERENCES `songs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
ALTER TABLE `renders` ADD `about` text;