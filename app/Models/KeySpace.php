<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * Legacy keys that may not be used twice: those of one entity from one source.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $entity_id
 * @property int $source_id
 */
final class KeySpace extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    public static function of(Load $load): self
    {
        return self::query()->firstOrCreate(
            ['entity_id' => $load->entity_id, 'source_id' => $load->extract->source_id],
            ['migration_id' => $load->migration_id],
        );
    }
}
