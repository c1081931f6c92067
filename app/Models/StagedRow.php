<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * @property int $take_id
 * @property int $row_no
 * @property int $line
 * @property string $cells
 */
final class StagedRow extends Model
{
    protected $guarded = [];

    public $timestamps = false;
}
