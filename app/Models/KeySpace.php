<?php

namespace App\Models;

use Baggage\Core\Mapping\LoadDefinition;
use Illuminate\Database\Eloquent\Model;

/**
 * Legacy keys of one entity that stand for one record each; sources may share them. The rows of a load that only reads a space
 * are told apart in one of their own, whose name bears the load's number and to which nothing refers.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $entity_id
 * @property string $name the code of the source unless a load states another; "NAME#load" for a reading one
 */
final class KeySpace extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    /** The one the rows of a load are kept in. */
    public static function of(Load $load, LoadDefinition $definition): self
    {
        return self::query()->firstOrCreate(
            ['entity_id' => $load->entity_id, 'name' => $definition->rowSpace()],
            ['migration_id' => $load->migration_id],
        );
    }
}
