<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Looking\LookGoing;
use App\Models\Migration;
use App\Models\Target;
use App\Targets\Ports;
use App\Targets\Question;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Differences;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;

/** Holds a target against its description, and tries what a pass will do there, before there is a pass. */
final readonly class TargetReady
{
    private const SHOWN = 6;

    /** @param  list<string>  $missing  rights */
    private function __construct(private string $name, private Schema $schema, private array $missing)
    {
    }

    /** @throws TargetUnavailable|LookGoing */
    public static function of(Migration $migration, Target $target): self
    {
        $plan = (new Definitions($migration))->version();
        $entities = array_map(fn (array $filled) => $filled[0]->toArray(), self::filled($plan));
        $found = Ports::ask($target, Question::Ready, ['entities' => $entities]);

        return new self(
            $target->name,
            new Schema(array_map(Entity::fromArray(...), $found['entities']), $found['others']),
            $found['missing'],
        );
    }

    /**
     * @return list<string> how the target is other than described, where that stops no load
     *
     * @throws \DomainException where no row could be written
     */
    public function for(PlanVersion $plan): array
    {
        $stopping = $telling = [];
        foreach (self::filled($plan) as [$entity, $filled, $creates]) {
            $found = Differences::between($entity, $this->schema->entities[$entity->name] ?? null, $filled, $creates);
            array_push($stopping, ...$found->stopping);
            array_push($telling, ...$found->telling);
        }
        if ($stopping !== []) {
            throw new \DomainException(
                "The target \"$this->name\" is not as described. ".self::some($stopping).' Read its description again, at Target.',
            );
        }
        if ($this->missing !== []) {
            throw new \DomainException(self::some($this->missing));
        }

        return $telling;
    }

    /** @return list<array{Entity, array<string, mixed>, bool}> entity, fields that are filled, whether records are made */
    private static function filled(PlanVersion $plan): array
    {
        $all = [];
        foreach ($plan->loads as $load) {
            [, $filled, $creates] = $all[$load->entity->name] ?? [null, [], false];
            $all[$load->entity->name] = [$load->entity, $filled + $load->rules, $creates || $load->policy->creates()];
        }

        return array_values($all);
    }

    /** @param  list<string>  $told */
    private static function some(array $told): string
    {
        $more = count($told) - self::SHOWN;

        return implode(' ', array_slice($told, 0, self::SHOWN)).($more > 0 ? " And $more more." : '');
    }
}
