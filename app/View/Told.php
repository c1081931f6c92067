<?php

namespace App\View;

use App\Models\AuditEntry;
use App\Models\User;
use App\People\Confirmation;
use App\Support\When;

/** Words about people, and about what they did. */
final class Told
{
    public static function account(User $user): string
    {
        return match (true) {
            $user->disabled_at !== null => 'disabled',
            $user->password === null => 'invited',
            default => 'can log in',
        };
    }

    /** Whether whoever looks has proved a moment ago who they are. */
    public static function isConfirmed(): bool
    {
        return Confirmation::holds(request());
    }

    public static function who(AuditEntry $entry): string
    {
        return $entry->user->name ?? ($entry->ip === null ? 'the command line or a worker' : 'nobody logged in');
    }

    public static function after(AuditEntry $entry): string
    {
        $detail = $entry->detail ?? [];
        $rest = array_diff_key($detail, ['before' => 1, 'after' => 1, 'from' => 1, 'to' => 1]);
        $rest = array_filter($rest, fn ($value) => self::said($value) !== '');
        $words = array_map(fn ($key) => "$key: ".self::said($rest[$key]), array_keys($rest));

        $after = self::said($detail['after'] ?? $detail['to'] ?? null);

        return implode('; ', $after === '' ? $words : [$after, ...$words]);
    }

    public static function where(AuditEntry $entry): string
    {
        return $entry->ip ?? ($entry->user_id === null ? 'the machine itself' : 'not kept then');
    }

    /** @return list<string> of a file of them */
    public static function line(AuditEntry $entry): array
    {
        return [
            When::written($entry->at),
            self::who($entry).($entry->user === null ? '' : " <{$entry->user->email}>"),
            self::where($entry),
            $entry->what,
            self::before($entry),
            self::after($entry),
        ];
    }

    public static function before(AuditEntry $entry): string
    {
        return self::said($entry->detail['before'] ?? $entry->detail['from'] ?? null);
    }

    public static function said(mixed $value): string
    {
        return match (true) {
            is_array($value) => implode(', ', array_map(
                fn ($k) => (is_int($k) ? '' : "$k ").self::said($value[$k]),
                array_keys($value),
            )),
            is_bool($value) => $value ? 'yes' : 'no',
            default => (string) $value,
        };
    }
}
