// Text from a memory, a byte every 5000 periods, with enables; written by a key.
module top(input clk, input key, output reg [7:0] d, output reg e);
  reg [7:0] mem [0:15];
  reg [12:0] t = 0;
  reg [3:0] at = 0;
  integer i;
  initial {d, e} = 0;
  initial for (i = 0; i < 16; i = i + 1) mem[i] = 65 + i;
  always @(posedge clk) begin
    t <= t == 4999 ? 0 : t + 1;
    e <= t > 1000 && t < 1500;
    if (t == 4999) begin at <= at + 1; d <= mem[at]; end
    if (key && t == 77) mem[at] <= d + 1;
  end
endmodule
