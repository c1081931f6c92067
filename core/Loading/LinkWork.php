<?php

namespace Baggage\Core\Loading;

/** Sets deferred references whose parents have a target key by now. Setting one twice changes nothing, so it may begin anew any time. */
final readonly class LinkWork
{
    private const AT_ONCE = 2000;

    public function __construct(private OpenReferences $open, private PlanVersion $plan, private Target $target)
    {
    }

    /**
     * @return int references set
     *
     * @throws TargetUnavailable
     */
    public function run(): int
    {
        $made = 0;
        foreach ($this->plan->loads as $load) {
            foreach ($this->plan->order()->deferredFields($load->entity->name) as $field) {
                $after = 0;
                while (($ready = $this->open->ready($load->id, $field, $after, self::AT_ONCE)) !== []) {
                    $pairs = array_map(fn (array $r) => [$r[1], $r[2]], $ready);
                    $this->target->setReference($load->entity, $field, $pairs);
                    $this->open->made($load->id, $field, array_column($ready, 0));
                    $after = end($ready)[0];
                    $made += count($ready);
                }
            }
        }

        return $made;
    }
}
