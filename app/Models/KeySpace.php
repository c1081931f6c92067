<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * Legacy keys of one entity that stand for one record each; sources may share them.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $entity_id
 * @property string $name the code of the source unless a load states another
 */
final class KeySpace extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    public static function of(Load $load): self
    {
        return self::query()->firstOrCreate(
            ['entity_id' => $load->entity_id, 'name' => $load->keySpace()],
            ['migration_id' => $load->migration_id],
        );
    }
}
