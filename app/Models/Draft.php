<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * What somebody typed on a page and has not sent.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $user_id
 * @property string $page path
 * @property array<string, array{string, string}> $fields field → what was kept when it was typed, and what was typed
 * @property ?\Illuminate\Support\Carbon $updated_at
 */
final class Draft extends Model
{
    /** Days until it is forgotten. */
    private const DAYS = 30;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['fields' => 'array'];
    }

    public static function of(Migration $migration, User $user, string $page): ?self
    {
        return self::query()
            ->where('user_id', $user->id)
            ->where('migration_id', $migration->id)
            ->where('page', $page)
            ->first();
    }

    /** @param  array<string, array{string, string}>  $fields  none to forget it */
    public static function keep(Migration $migration, User $user, string $page, array $fields): void
    {
        $of = ['user_id' => $user->id, 'migration_id' => $migration->id, 'page' => $page];
        if ($fields === []) {
            self::query()->where($of)->delete();

            return;
        }
        self::query()->upsert(
            [$of + ['fields' => json_encode($fields, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE)]],
            ['user_id', 'migration_id', 'page'],
            ['fields', 'updated_at'],
        );
    }

    public static function sweep(): void
    {
        self::query()->where('updated_at', '<', now()->subDays(self::DAYS))->delete();
    }
}
