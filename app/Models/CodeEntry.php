<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $id
 * @property int $code_crosswalk_id
 * @property string $old_value
 * @property ?string $new_value
 * @property ?int $user_id
 */
final class CodeEntry extends Model
{
    protected $guarded = [];
}
