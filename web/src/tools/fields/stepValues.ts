// What stands in the considered step for one of its parameters.
import { computed } from 'vue';
import { useForecast } from '../../stores/forecast';
import { usePicks } from '../picking/picks';
import { useTools } from '../../stores/tools';
import { counts as countsIn, valueAt, withAt, type Field } from './describe';

export function useStepValues(field: () => Field) {
    const forecast = useForecast();
    const picks = usePicks();
    const tools = useTools();
    const value = computed(() => valueAt(forecast.draft, field().path));
    const set = (to: unknown) =>
        forecast.draft && picks.changeByHand(withAt(forecast.draft, field().path, to));
    /** Whether the tool stands on the list under this choice, so that it is no choice any more. */
    const isFixed = computed(() => {
        const mark = forecast.draft && tools.of(forecast.draft)?.mark;
        return !!mark && mark.startsWith(`/${field().path.join('/')}/`);
    });
    const counts = (f: Field) => countsIn(f, forecast.draft);
    return { value, set, isFixed, counts };
}
