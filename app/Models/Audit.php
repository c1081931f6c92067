<?php

namespace App\Models;

use Illuminate\Support\Facades\Auth;

/** The audit trail: who changed what. */
final class Audit
{
    /** @param  array<string, mixed>  $detail */
    public static function note(?int $migration, string $what, array $detail = []): void
    {
        AuditEntry::query()->create([
            'migration_id' => $migration,
            'user_id' => Auth::id(),
            'what' => $what,
            'detail' => $detail ?: null,
            'ip' => app()->runningInConsole() && ! app()->runningUnitTests() ? null : request()->ip(),
        ]);
    }
}
