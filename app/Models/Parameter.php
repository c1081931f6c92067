<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * A value that is asked for when a round begins; rules use it by name.
 *
 * @property int $id
 * @property int $migration_id
 * @property string $name
 * @property string $prompt
 * @property ?string $default_value
 */
final class Parameter extends Model
{
    protected $guarded = [];
}
