CREATE TABLE `presets` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`part` text NOT NULL,
	`equalizer` text NOT NULL,
	`created_at` integer NOT NULL,
	`deleted_at` integer
);
