CREATE TABLE "sendings" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"dashboard_id" uuid NOT NULL,
	"owner_id" uuid NOT NULL,
	"name" text NOT NULL,
	"search" text NOT NULL,
	"recipients" jsonb NOT NULL,
	"cron" text NOT NULL,
	"next_at" timestamp with time zone,
	"failures" integer DEFAULT 0 NOT NULL,
	"sent_to" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"last_at" timestamp with time zone,
	"problem" text,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "sendings" ADD CONSTRAINT "sendings_dashboard_id_dashboards_id_fk" FOREIGN KEY ("dashboard_id") REFERENCES "public"."dashboards"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sendings" ADD CONSTRAINT "sendings_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "sendings_due" ON "sendings" USING btree ("next_at");--> statement-breakpoint
CREATE INDEX "sendings_by_dashboard" ON "sendings" USING btree ("dashboard_id");