<?php

namespace App\Specification;

use App\Looking\LookGoing;
use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\CodeCrosswalk;
use App\Models\Migration;
use App\Models\User;
use App\Reading\SheetLines;
use Baggage\Core\Reading\ReadingError;

/**
 * What a workbook or a sheet of codes that came back says differently from what is kept, one change for each cell.
 */
final readonly class Changes
{
    public const STALE = 'It has been changed here since the list was made.';

    public function __construct(private RuleChanges $rules, private CodeChanges $codes, private ColumnChanges $columns)
    {
    }

    /**
     * @return list<Change>
     *
     * @throws ReadingError|LookGoing
     */
    public function ofWorkbook(Migration $migration, string $path, string $name): array
    {
        [$rules, $codes, $columns] = SheetLines::all($path, $name, [
            ['Rules', ['Load', 'Field', 'Rule', 'Left empty because', 'Note']],
            ['Codes', ['Crosswalk', 'Old value', 'New value', 'Decision', 'Note']],
            ['Columns', ['Load', 'Column', 'Left behind because']],
        ]);

        return [
            ...$this->rules->read($migration, $rules),
            ...$this->codes->read($migration, $codes, null),
            ...$this->columns->read($migration, $columns),
        ];
    }

    /**
     * @return list<Change>
     *
     * @throws ReadingError|LookGoing
     */
    public function ofCodes(CodeCrosswalk $crosswalk, string $path, string $name): array
    {
        $migration = Migration::query()->findOrFail($crosswalk->migration_id);

        [$lines] = SheetLines::all($path, $name, [[null, ['Old value', 'New value']]]);

        return $this->codes->read($migration, $lines, $crosswalk);
    }

    /**
     * Makes one change, if what it changes is still what it was.
     *
     * @return string|null why it was not made
     */
    public function make(Migration $migration, Change $change, ?User $user): ?string
    {
        return match ($change->kind) {
            ChangeKind::Rule => $this->rules->make($migration, $change, $user),
            ChangeKind::Code => $this->codes->make($migration, $change),
            default => $this->columns->make($change, $user),
        };
    }
}
