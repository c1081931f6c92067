<?php

use App\Support\Address;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

return new class extends Migration
{
    /**
     * Who belongs to which migration, and as what; who administers the installation. Until now a role held for all of them.
     */
    public function up(): void
    {
        DB::statement(
            <<<'SQL'
            CREATE TABLE memberships (
                user_id INT UNSIGNED NOT NULL,
                migration_id INT UNSIGNED NOT NULL,
                role VARCHAR(20) NOT NULL,
                created_at TIMESTAMP NOT NULL DEFAULT current_timestamp(),
                PRIMARY KEY (migration_id, user_id),
                KEY memberships_user_id (user_id),
                FOREIGN KEY (user_id) REFERENCES users (id) ON DELETE CASCADE,
                FOREIGN KEY (migration_id) REFERENCES migrations (id) ON DELETE CASCADE
            ) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_520_ci
            SQL
        );
        DB::statement(
            <<<'SQL'
            ALTER TABLE users
                ADD is_administrator TINYINT(1) NOT NULL DEFAULT 0,
                ADD address VARBINARY(1020) DEFAULT NULL,
                ADD disabled_at TIMESTAMP NULL DEFAULT NULL,
                ADD zone VARCHAR(60) NOT NULL DEFAULT 'UTC'
            SQL
        );
        DB::statement(
            'INSERT INTO memberships (user_id, migration_id, role) SELECT u.id, m.id, u.role FROM users u CROSS JOIN migrations m',
        );
        foreach (DB::table('users')->orderBy('id')->get(['id', 'email']) as $user) {
            DB::table('users')->where('id', $user->id)->update(['address' => Address::normal($user->email)]);
        }
        $first = DB::table('users')->where('role', 'lead')->min('id');
        DB::table('users')->where('id', $first)->update(['is_administrator' => true]);
        DB::statement(
            'ALTER TABLE users MODIFY address VARBINARY(1020) NOT NULL, ADD UNIQUE KEY users_address (address), '
                .'DROP KEY users_email_unique, DROP COLUMN role',
        );
    }
};
