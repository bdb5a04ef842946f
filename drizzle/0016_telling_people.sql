CREATE TABLE "follow_up_files" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"note_id" bigint NOT NULL,
	"name" text NOT NULL,
	"bytes" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "follow_up_tellings" (
	"note_id" bigint NOT NULL,
	"user_id" uuid NOT NULL,
	"seen_at" timestamp with time zone,
	CONSTRAINT "follow_up_tellings_note_id_user_id_pk" PRIMARY KEY("note_id","user_id")
);
--> statement-breakpoint
ALTER TABLE "groups" ADD COLUMN "provider_name" text;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "subject" text;--> statement-breakpoint
ALTER TABLE "follow_up_files" ADD CONSTRAINT "follow_up_files_note_id_follow_up_notes_id_fk" FOREIGN KEY ("note_id") REFERENCES "public"."follow_up_notes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up_tellings" ADD CONSTRAINT "follow_up_tellings_note_id_follow_up_notes_id_fk" FOREIGN KEY ("note_id") REFERENCES "public"."follow_up_notes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "follow_up_tellings" ADD CONSTRAINT "follow_up_tellings_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "follow_up_files_of" ON "follow_up_files" USING btree ("note_id");--> statement-breakpoint
CREATE INDEX "follow_up_tellings_by_person" ON "follow_up_tellings" USING btree ("user_id","seen_at");--> statement-breakpoint
ALTER TABLE "groups" ADD CONSTRAINT "groups_provider_name_unique" UNIQUE("provider_name");--> statement-breakpoint
ALTER TABLE "users" ADD CONSTRAINT "users_subject_unique" UNIQUE("subject");