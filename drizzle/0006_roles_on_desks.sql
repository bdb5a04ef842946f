CREATE TABLE "desk_roles" (
	"desk_id" uuid NOT NULL,
	"user_id" uuid NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "desk_roles_desk_id_user_id_pk" PRIMARY KEY("desk_id","user_id")
);
--> statement-breakpoint
ALTER TABLE "users" ALTER COLUMN "role" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "is_administrator" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "desk_roles" ADD CONSTRAINT "desk_roles_desk_id_desks_id_fk" FOREIGN KEY ("desk_id") REFERENCES "public"."desks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desk_roles" ADD CONSTRAINT "desk_roles_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "desk_roles_by_user" ON "desk_roles" USING btree ("user_id");--> statement-breakpoint
INSERT INTO "desk_roles" ("desk_id", "user_id", "role") SELECT "desks"."id", "users"."id", "users"."role" FROM "desks", "users" WHERE "users"."role" <> 'administrator';--> statement-breakpoint
UPDATE "users" SET "is_administrator" = true WHERE "role" = 'administrator';
