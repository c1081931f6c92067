<?php

namespace App\Files;

use Baggage\Core\Writing\Reference;

/** Where the columns of a load stand in a sheet that came back. */
final readonly class AnswerLayout
{
    /**
     * @param  array<int, int>  $own  position in the take → in the sheet
     * @param  int  $stood  how many of them stand first and in their order, as they were written; 0 where one does not
     * @param  int|null  $remark  column of the remarks
     */
    public function __construct(public array $own, private int $stood, private ?int $remark)
    {
    }

    /**
     * @param  list<string|null>  $cells
     * @param  string|null  $said  what its reference says of what was written
     * @return bool whether a row has nothing to say; false also where that cannot be told by itself
     */
    public function isAsWritten(array $cells, ?string $said): bool
    {
        return $said !== null && $this->stood > 0 && ($this->remark === null || ($cells[$this->remark] ?? '') === '')
            && Reference::hash(array_slice($cells, 0, $this->stood)) === $said;
    }

    /** @param  list<string|null>  $cells */
    public function remark(array $cells): string
    {
        return $this->remark === null ? '' : trim((string) ($cells[$this->remark] ?? ''));
    }
}
