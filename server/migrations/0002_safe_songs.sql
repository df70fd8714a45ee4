CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`song_id` text NOT NULL,
	`job` text NOT NULL,
	`task` text NOT NULL,
	`is_running` integer NOT NULL,
	`changed_at` integer NOT NULL
);
--> statement-breakpoint
CREATE INDEX `jobs_by_song` ON `jobs` (`song_id`);--> statement-breakpoint
CREATE TABLE `snapshots` (
	`song_id` text NOT NULL,
	`revision` integer NOT NULL,
	`document` text NOT NULL,
	`created_at` integer NOT NULL,
	PRIMARY KEY(`song_id`, `revision`),
	FOREIGN KEY (`song_id`) REFERENCES `songs`(`id`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
ALTER TABLE `analyses` ADD `checksum` text;--> statement-breakpoint
ALTER TABLE `audio` ADD `page_checksums` text;--> statement-breakpoint
ALTER TABLE `edits` ADD `version` integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `songs` ADD `tracks` integer;--> statement-breakpoint
ALTER TABLE `songs` ADD `length_seconds` real;--> statement-breakpoint
ALTER TABLE `songs` ADD `problem` text;