<?php

namespace App\Models;

use Baggage\Core\Loading\PlanVersion;
use Illuminate\Database\Eloquent\Model;

/**
 * A plan version, kept once however many passes used it.
 *
 * @property int $id
 * @property int $migration_id
 * @property string $hash
 * @property string $definition
 */
final class KeptPlan extends Model
{
    protected $table = 'plan_versions';

    protected $guarded = [];

    public $timestamps = false;

    public static function keep(int $migration, PlanVersion $version): self
    {
        return self::query()->firstOrCreate(
            ['migration_id' => $migration, 'hash' => $version->hash()],
            ['definition' => $version->toJson()],
        );
    }

    public function version(): PlanVersion
    {
        return PlanVersion::fromJson($this->definition);
    }
}
