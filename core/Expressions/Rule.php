<?php

namespace Baggage\Core\Expressions;

/** An expression ready to be applied to rows. */
final readonly class Rule
{
    /**
     * @param  \Closure(list<string|null>, Context): mixed  $program
     * @param  list<int>  $columns  positions of the columns it reads
     * @param  list<string>  $codes  names of the code crosswalks it uses, where they are written out
     * @param  array<string, int>  $codeColumns  code crosswalk → column position, where it is applied to a plain column
     * @param  list<Call>  $calls  functions it calls
     */
    public function __construct(
        public string $expression,
        private \Closure $program,
        public array $columns,
        public array $codes,
        public array $codeColumns,
        public array $calls = [],
    ) {
    }

    /**
     * @param  list<string|null>  $cells
     * @return mixed string, int, bool, ParentKey or null
     *
     * @throws RuleFailure
     */
    public function apply(array $cells, Context $context): mixed
    {
        try {
            return ($this->program)($cells, $context);
        } catch (RuleFailure $e) {
            throw $e;
        } catch (\TypeError) {
            throw new RuleFailure(
                'wrong_argument',
                'A function in the rule got a value of the wrong kind',
                $this->firstCell($cells),
            );
        } catch (\ValueError $e) {
            throw new RuleFailure(
                'wrong_argument',
                'A function in the rule refused its value: '.$e->getMessage(),
                $this->firstCell($cells),
            );
        }
    }

    /** @param  list<string|null>  $cells */
    private function firstCell(array $cells): ?string
    {
        return $this->columns === [] ? null : $cells[$this->columns[0]] ?? null;
    }
}
