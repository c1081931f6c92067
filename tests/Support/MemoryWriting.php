<?php

namespace Tests\Support;

use Baggage\Core\Loading\Answer;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Order;
use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Loading\Writing;
use Baggage\Core\Targets\Entity;

/** A stretch on its way into a target in memory: a draft of all it holds. */
final class MemoryWriting implements Writing
{
    /** @var list<Answer> */
    private array $answers = [];

    public function __construct(
        private readonly MemoryTarget $target,
        private readonly MemoryTarget $draft,
        private readonly Entity $entity,
        private readonly Stretch $stretch,
        private readonly Mark $mark,
    ) {
    }

    public function do(array $orders): array
    {
        $answers = array_map(fn (Order $o) => $this->draft->one($this->entity, $o), $orders);
        array_push($this->answers, ...$answers);

        return $answers;
    }

    public function keep(): void
    {
        if (isset($this->draft->receipts[$this->stretch->name()])) {
            throw TargetUnavailable::because('This stretch has been written.');
        }
        $this->draft->receipts[$this->stretch->name()] = (new Receipt($this->stretch->to, $this->answers))->pack();
        $this->target->become($this->draft, $this->mark);
        ($this->target->fault ?? fn () => null)('answer');
    }

    public function drop(): void
    {
        // The draft is dropped with this object.
    }
}
