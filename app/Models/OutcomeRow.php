<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $round_id
 * @property int $load_id
 * @property int $row_no
 * @property int $entity_id
 * @property int $source_id
 * @property string $legacy_key
 * @property string $outcome
 * @property ?string $target_key
 * @property ?int $cause_id
 * @property ?int $root_cause_id
 * @property int $pass_id
 */
final class OutcomeRow extends Model
{
    protected $table = 'outcomes';

    protected $guarded = [];

    public $timestamps = false;
}
